"""The pages anybody may see."""

from django.urls import path

from stations.selling.views import feeds, pictures, shop

app_name = "shop"
urlpatterns = [
    path("", shop.shop_front, name="front"),
    path("pictures/<int:pk>/<slug:size>/", pictures.picture, name="picture"),
    path("W-<int:number>/", shop.shop_unit, name="unit"),
    path("about/<slug:slug>/", shop.shop_page, name="page"),
    path("feed.atom", feeds.NewForSale(), name="feed"),
    path("for-sale.csv", feeds.for_sale_csv, name="csv"),
    path("sitemap.xml", feeds.sitemaps, name="sitemap"),
    path("sitemap-<section>.xml", feeds.sitemap_part, name="sitemap-part"),
]
