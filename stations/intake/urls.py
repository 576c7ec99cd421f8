from django.urls import path

from stations.intake.views import drawers, findings, into_bank, photos, read_off, records, settling, table, triage, unit

app_name = "intake"
urlpatterns = [
    path("", table.table, name="table"),
    path("lines/<int:pk>/record/", records.take_in_record, name="import-record"),
    path("lines/<int:pk>/drawer/", drawers.into_drawer, name="into-drawer"),
    path("receipts/<int:pk>/take-back/", drawers.take_back, name="take-back"),
    path("L-<int:number>/triage/", triage.lot_triage, name="lot-triage"),
    path("W-<int:number>/", unit.unit, name="unit"),
    path("W-<int:number>/identify/", unit.identify, name="identify"),
    path("W-<int:number>/into-the-bank/", into_bank.into_bank, name="into-bank"),
    path("W-<int:number>/holding/", unit.ownership, name="hold"),
    path("W-<int:number>/data/", unit.data_on_board, name="data"),
    path("W-<int:number>/contents/", unit.contents, name="contents"),
    path("W-<int:number>/all-there/", unit.everything_present, name="all-there"),
    path("W-<int:number>/look-for/", unit.look_for, name="look-for"),
    path("W-<int:number>/like-the-last/", unit.copied_from_previous, name="like-the-last"),
    path("W-<int:number>/findings/", findings.add_finding, name="add-finding"),
    path("W-<int:number>/approach/", unit.approach, name="approach"),
    path("W-<int:number>/path/", unit.choose_path, name="choose-path"),
    path("W-<int:number>/photos/", photos.add_photos, name="add-photos"),
    path("W-<int:number>/finish/", unit.finish, name="finish"),
    path("W-<int:number>/readings/", read_off.readings, name="readings"),
    path("W-<int:number>/facts/", read_off.keep_fact, name="keep-fact"),
    path("W-<int:number>/record.json", records.record, name="record"),
    path("W-<int:number>/looked-over/", settling.looked_over, name="looked-over"),
    path("W-<int:number>/sound/", photos.add_sound, name="add-sound"),
    path("W-<int:number>/slips/", settling.slips, name="slips"),
    path("W-<int:number>/take-up/", settling.take_up, name="take-up"),
    path("W-<int:number>/settle/<slug:what>/", settling.act, name="act"),
    path("facts/<int:pk>/drop/", read_off.drop_fact, name="drop-fact"),
    path("findings/<int:pk>/", findings.settle_finding, name="settle-finding"),
    path("findings/<int:pk>/dealt-with/", settling.settle_hazard, name="settle-hazard"),
    path("findings/<int:pk>/change/", findings.change_finding, name="change-finding"),
    path("photos/<int:pk>/shot/", photos.say_shot, name="say-shot"),
]
