from django.urls import path

from stations.buying import manifest_views, plan_views, views

app_name = "buying"
urlpatterns = [
    path("", views.lots, name="lots"),
    path("new/", views.record, name="record"),
    path("plans/", plan_views.overview, name="plans"),
    path("plans/new/", plan_views.new, name="plan-new"),
    path("plans/P-<int:number>/", plan_views.plan, name="plan"),
    path("plans/P-<int:number>/terms/", plan_views.terms, name="plan-terms"),
    path("plans/P-<int:number>/at/", plan_views.at_bid, name="plan-at"),
    path("plans/P-<int:number>/lines/<int:pk>/", plan_views.line, name="plan-line"),
    path("plans/P-<int:number>/lines/<int:pk>/drop/", plan_views.drop, name="plan-drop"),
    path("plans/P-<int:number>/lines/<int:pk>/answer/", plan_views.answer, name="plan-answer"),
    path("landed/", views.landed, name="landed"),
    path("rates/", views.exchange_rates, name="rates"),
    path("rates/fetch/", views.fetch_rates, name="fetch-rates"),
    path("L-<int:number>/", views.lot, name="lot"),
    path("odds/", plan_views.odds, name="odds"),
    path("suppliers/", views.suppliers, name="suppliers"),
    path("suppliers/<int:pk>/", views.supplier, name="supplier"),
    path("lots.csv", manifest_views.lots_csv, name="lots-csv"),
    path("lots.json", manifest_views.lots_json, name="lots-json"),
    path("L-<int:number>/lines.csv", manifest_views.lines_csv, name="lines-csv"),
    path("L-<int:number>/lines.json", manifest_views.lines_json, name="lines-json"),
    path("L-<int:number>/manifest/", manifest_views.upload, name="manifest-upload"),
    path("manifests/<int:pk>/", manifest_views.look, name="manifest"),
    path("plans/P-<int:number>/manifest/", manifest_views.upload_to_plan, name="plan-manifest"),
    path("plans/P-<int:number>/<slug:what>/", plan_views.decide, name="plan-decide"),
    path("L-<int:number>/lines/<int:pk>/", views.line, name="line"),
    path("L-<int:number>/correct/", views.correct, name="correct"),
]
