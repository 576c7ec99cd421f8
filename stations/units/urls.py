from django.urls import path

from stations.units.views import colour, files, labels, units, wanted, whereabouts

app_name = "units"
urlpatterns = [
    path("units/", units.units, name="units"),
    path("units.csv", units.units_csv, name="units-csv"),
    path("wanted/", wanted.wanted, name="wanted"),
    path("wanted/cheapest/", wanted.cheapest_way, name="cheapest-way"),
    path("wanted/cheapest/order/", wanted.order_it, name="order-it"),
    path("wanted/offers/<int:pk>/forget/", wanted.forget_offer, name="forget-offer"),
    path("wanted/parts/<int:pk>/drop/", wanted.drop_want, name="drop-want"),
    path("wanted/<int:pk>/", wanted.estimate, name="estimate"),
    path("wanted/<int:pk>/again/", wanted.want_after_all, name="want-after-all"),
    path("places/", labels.places, name="places"),
    path("places/put-down/", whereabouts.put_down, name="put-down"),
    path("places/put/", whereabouts.put, name="put"),
    path("places/move/", whereabouts.move_all, name="move-all"),
    path("W-<int:number>/place/", whereabouts.place, name="place"),
    path("L-<int:number>/labels/", labels.lot_labels, name="lot-labels"),
    path("parts/P-<int:number>/label.pdf", labels.part_label, name="part-label"),
    path("drawers/labels/", labels.drawer_labels, name="drawer-labels"),
    path("W-<int:number>/label/", labels.label, name="label"),
    path("W-<int:number>/label/print/", labels.print_label, name="print-label"),
    path("W-<int:number>/label.<str:form>", labels.label_file, name="label-file"),
    path("W-<int:number>/colour/", colour.colour, name="colour"),
    path("W-<int:number>/colour/<int:photo>/", colour.colour, name="colour-on"),
    path("sounds/<int:pk>/", files.clip, name="clip"),
    path("colour/measure/", colour.measure, name="measure-colour"),
    path("photos/<int:pk>/colour/", colour.keep, name="keep-colour"),
    path("photos/<int:pk>/<slug:size>/", files.photo, name="photo"),
]
