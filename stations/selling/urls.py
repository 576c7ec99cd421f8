from django.urls import path

from stations.selling.views import bundles, channels, comparables, inbox, pages, pictures, sentences, table, unit

app_name = "selling"
urlpatterns = [
    path("", table.selling, name="selling"),
    path("comparables/", comparables.comparables, name="comparables"),
    path("comparables/<int:pk>/drop/", comparables.drop, name="drop-comparable"),
    path("comparables/file/", comparables.upload, name="upload"),
    path("comparables/file/<int:pk>/", comparables.look, name="file"),
    path("sentences/", sentences.sentences, name="sentences"),
    path("channels/", channels.channels, name="channels"),
    path("W-<int:number>/", unit.unit, name="unit"),
    path("W-<int:number>/price/", unit.price, name="price"),
    path("W-<int:number>/text/", unit.text, name="text"),
    path("W-<int:number>/offer/", unit.offer, name="offer"),
    path("W-<int:number>/reserve/", unit.reserve, name="reserve"),
    path("W-<int:number>/word/", unit.word, name="word"),
    path("W-<int:number>/pictures/", pictures.pictures, name="pictures"),
    path("pictures/<int:pk>/cut/", pictures.cut, name="cut"),
    path("pictures/<int:pk>/mark/", pictures.mark, name="mark"),
    path("pictures/<int:pk>/<slug:what>/", pictures.one_press, name="picture-do"),
    path("offers/", inbox.inbox, name="inbox"),
    path("offers/<int:pk>/", inbox.answer, name="answer"),
    path("questions/<int:pk>/", inbox.question, name="question"),
    path("messages/<int:pk>/<slug:what>/", inbox.message, name="message"),
    path("bundles/", bundles.bundles, name="bundles"),
    path("bundles/<int:pk>/", bundles.bundle, name="bundle"),
    path("bundles/<int:pk>/apart/", bundles.apart, name="apart"),
    path("places/<int:pk>/<slug:what>/", unit.placement, name="placement"),
    path("W-<int:number>/on/<int:channel>/", unit.offer_on, name="offer-on"),
    path("pages/", pages.pages, name="pages"),
    path("channels/<int:pk>/", channels.channel, name="channel"),
    path("channels/<int:pk>/done/", channels.all_done, name="all-done"),
    path("channels/<int:pk>/cards.pdf", channels.cards, name="cards"),
    path("W-<int:number>/sale/", unit.sale, name="sale"),
    path("W-<int:number>/<slug:what>/", unit.one_press, name="do"),
]
