from django.urls import path

from stations.units import colour_views, views

app_name = "units"
urlpatterns = [
    path("units/", views.units, name="units"),
    path("units.csv", views.units_csv, name="units-csv"),
    path("wanted/", views.wanted, name="wanted"),
    path("wanted/<int:pk>/", views.estimate, name="estimate"),
    path("places/", views.places, name="places"),
    path("L-<int:number>/labels/", views.lot_labels, name="lot-labels"),
    path("W-<int:number>/label/", views.label, name="label"),
    path("W-<int:number>/label/print/", views.print_label, name="print-label"),
    path("W-<int:number>/label.<str:form>", views.label_file, name="label-file"),
    path("W-<int:number>/colour/", colour_views.colour, name="colour"),
    path("W-<int:number>/colour/<int:photo>/", colour_views.colour, name="colour-on"),
    path("sounds/<int:pk>/", views.clip, name="clip"),
    path("colour/measure/", colour_views.measure, name="measure-colour"),
    path("photos/<int:pk>/colour/", colour_views.keep, name="keep-colour"),
    path("photos/<int:pk>/<slug:size>/", views.photo, name="photo"),
]
