from django.urls import path

from stations.intake import capture_views, list_views, settling_views, views

app_name = "intake"
urlpatterns = [
    path("", views.table, name="table"),
    path("lines/<int:pk>/record/", list_views.take_in_record, name="import-record"),
    path("L-<int:number>/triage/", list_views.lot_triage, name="lot-triage"),
    path("W-<int:number>/", capture_views.unit, name="unit"),
    path("W-<int:number>/identify/", capture_views.identify, name="identify"),
    path("W-<int:number>/holding/", capture_views.hold, name="hold"),
    path("W-<int:number>/data/", capture_views.data, name="data"),
    path("W-<int:number>/contents/", capture_views.contents, name="contents"),
    path("W-<int:number>/all-there/", capture_views.all_there, name="all-there"),
    path("W-<int:number>/like-the-last/", capture_views.like_the_last, name="like-the-last"),
    path("W-<int:number>/findings/", capture_views.add_finding, name="add-finding"),
    path("W-<int:number>/approach/", capture_views.approach, name="approach"),
    path("W-<int:number>/path/", capture_views.choose_path, name="choose-path"),
    path("W-<int:number>/photos/", capture_views.add_photos, name="add-photos"),
    path("W-<int:number>/finish/", capture_views.finish, name="finish"),
    path("W-<int:number>/readings/", capture_views.readings, name="readings"),
    path("W-<int:number>/facts/", capture_views.keep_fact, name="keep-fact"),
    path("W-<int:number>/record.json", list_views.record, name="record"),
    path("W-<int:number>/looked-over/", settling_views.looked_over, name="looked-over"),
    path("W-<int:number>/sound/", settling_views.add_sound, name="add-sound"),
    path("W-<int:number>/take-up/", settling_views.take_up, name="take-up"),
    path("W-<int:number>/settle/<slug:what>/", settling_views.act, name="act"),
    path("facts/<int:pk>/drop/", capture_views.drop_fact, name="drop-fact"),
    path("findings/<int:pk>/", capture_views.settle_finding, name="settle-finding"),
    path("findings/<int:pk>/dealt-with/", settling_views.settle_hazard, name="settle-hazard"),
    path("findings/<int:pk>/change/", capture_views.change_finding, name="change-finding"),
    path("photos/<int:pk>/shot/", capture_views.say_shot, name="say-shot"),
]
