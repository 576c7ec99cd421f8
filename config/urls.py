"""Every address, one line a station."""

from django.urls import include, path

from stations.selling.views.feeds import robots

urlpatterns = [
    path("", include("stations.floor.urls")),
    path("people/", include("stations.people.urls")),
    path("queue/", include("stations.queue.urls")),
    path("backups/", include("stations.backup.urls")),
    path("day/", include("stations.day.urls")),
    path("buying/", include("stations.buying.urls")),
    path("", include("stations.stock.urls")),
    path("intake/", include("stations.intake.urls")),
    path("intake/", include("stations.units.urls")),
    path("", include("stations.catalogue.urls")),
    path("bench/", include("stations.bench.urls")),
    path("workshop/", include("stations.workshop.urls")),
    path("selling/", include("stations.selling.urls")),
    path("shop/", include("stations.selling.shop_urls")),
    path("robots.txt", robots),
    path("dispatch/", include("stations.dispatch.urls")),
    path("books/", include("stations.books.urls")),
    path("api/v1/", include("stations.api.urls", namespace="api")),
]
handler400 = "config.errors.unreadable"
