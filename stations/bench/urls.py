from django.urls import path

from stations.bench import fault_views, setup_views, views

app_name = "bench"
urlpatterns = [
    path("", views.bench, name="bench"),
    path("checks/", setup_views.checks, name="checks"),
    path("checks/new/", setup_views.new_check, name="new-check"),
    path("checks/<slug:code>/", setup_views.check, name="check"),
    path("instruments/", setup_views.the_instruments, name="instruments"),
    path("instruments/<int:pk>/remove/", setup_views.remove_instrument, name="remove-instrument"),
    path("sums/", setup_views.sums, name="sums"),
    path("sums/<slug:what>/", setup_views.work_out, name="sum"),
    path("W-<int:number>/", views.unit, name="unit"),
    path("W-<int:number>/band/<slug:code>/", views.band, name="band"),
    path("W-<int:number>/meter/<slug:code>/", views.meter, name="meter"),
    path("W-<int:number>/start/", views.start, name="start"),
    path("W-<int:number>/end/", views.end, name="end"),
    path("W-<int:number>/take-over/", views.take_over, name="take-over"),
    path("W-<int:number>/timer/<slug:code>/", views.start_timer, name="start-timer"),
    path("W-<int:number>/note/<slug:code>/", views.note, name="note"),
    path("W-<int:number>/starts/", views.note_start, name="note-start"),
    path("W-<int:number>/fault/", fault_views.fault, name="fault"),
    path("W-<int:number>/fault/code/", fault_views.read_code, name="read-code"),
    path("W-<int:number>/fault/answer/", fault_views.answer, name="answer"),
    path("W-<int:number>/fault/close/", fault_views.close, name="close-fault"),
    path("W-<int:number>/benchmark/", setup_views.benchmark, name="benchmark"),
    path("W-<int:number>/stop/", views.stop, name="stop"),
    path("W-<int:number>/discharge/", views.discharge, name="discharge"),
    path("stops/<int:pk>/end/", views.end_stop, name="end-stop"),
    path("W-<int:number>/fault/own/", fault_views.own, name="own-try"),
    path("known-good/<int:pk>/bad/", fault_views.found_bad, name="found-bad"),
    path("W-<int:number>/report.pdf", views.report, name="report"),
]
