from django.urls import path

from stations.workshop.views import job, labour, settings, strip, strip_edit, table, take_apart, treatment, unit

app_name = "workshop"
urlpatterns = [
    path("", table.workshop, name="workshop"),
    path("W-<int:number>/", unit.unit, name="unit"),
    path("W-<int:number>/take-apart/", take_apart.take_apart, name="take-apart"),
    path("W-<int:number>/settings/", settings.sheet, name="settings"),
    path("W-<int:number>/settings/put-back/", settings.put_back, name="put-back"),
    path("W-<int:number>/treatment/", treatment.note, name="treatment"),
    path("W-<int:number>/treatment.pdf", treatment.report, name="treatment-report"),
    path("W-<int:number>/strip-down/", strip.strip, name="strip"),
    path("W-<int:number>/strip-down/open/", strip.open_up, name="strip-open"),
    path("W-<int:number>/strip-down/thing/", strip.thing, name="strip-thing"),
    path("W-<int:number>/strip-down/cautions/", strip.cautions, name="strip-cautions"),
    path("W-<int:number>/strip-down/back-one/", strip.back_one, name="strip-back-one"),
    path("W-<int:number>/strip-down/turn/", strip.turn, name="strip-turn"),
    path("W-<int:number>/strip-down/also/", strip.also, name="strip-also"),
    path("W-<int:number>/strip-down/tested/", strip.tested, name="strip-tested"),
    path("W-<int:number>/strip-down/anyway/", strip.anyway, name="strip-anyway"),
    path("W-<int:number>/strip-down/odd/", strip.odd, name="strip-odd"),
    path("W-<int:number>/strip-down/photo/", strip.photo, name="strip-photo"),
    path("W-<int:number>/strip-down/more/", strip.unlisted, name="strip-unlisted"),
    path("W-<int:number>/strip-down/trays.pdf", strip.sheet, name="strip-sheet"),
    path("W-<int:number>/strip-down/edit/", strip_edit.edit, name="strip-edit"),
    path("W-<int:number>/strip-down/edit/one/", strip_edit.one, name="strip-edit-one"),
    path("jobs/<int:pk>/", job.job, name="job"),
    path("jobs/<int:pk>/change/", job.change, name="change"),
    path("jobs/<int:pk>/parts/", job.issue, name="issue"),
    path("jobs/<int:pk>/minutes/", labour.minutes, name="minutes"),
    path("jobs/<int:pk>/done/", job.done, name="done"),
    path("jobs/<int:pk>/made-good/", job.make_good, name="make-good"),
    path("jobs/<int:pk>/clock/<slug:what>/", labour.clock, name="clock"),
    path("labour/<int:pk>/", labour.labour, name="labour"),
    path("parts/<int:pk>/back/", job.return_part, name="return-part"),
]
