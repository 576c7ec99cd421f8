from django.urls import path

from stations.buying.views import exports, lot, lot_form, lots, manifests, odds, plan, plans, rates, suppliers

app_name = "buying"
urlpatterns = [
    path("", lots.lots, name="lots"),
    path("new/", lot_form.record, name="record"),
    path("plans/", plans.overview, name="plans"),
    path("plans/new/", plans.new, name="plan-new"),
    path("plans/P-<int:number>/", plan.plan, name="plan"),
    path("plans/P-<int:number>/terms/", plans.terms, name="plan-terms"),
    path("plans/P-<int:number>/at/", plan.at_bid, name="plan-at"),
    path("plans/P-<int:number>/lines/<int:pk>/", plan.line, name="plan-line"),
    path("plans/P-<int:number>/lines/<int:pk>/drop/", plan.drop, name="plan-drop"),
    path("plans/P-<int:number>/lines/<int:pk>/answer/", plan.answer, name="plan-answer"),
    path("plans/P-<int:number>/lines/<int:pk>/not-answered/", plan.unanswer, name="plan-not-answered"),
    path("plans/P-<int:number>/became/", plan.became, name="plan-became"),
    path("landed/", lot_form.landed, name="landed"),
    path("rates/", rates.exchange_rates, name="rates"),
    path("rates/fetch/", rates.fetch_rates, name="fetch-rates"),
    path("L-<int:number>/", lot.lot, name="lot"),
    path("odds/", odds.odds, name="odds"),
    path("suppliers/", suppliers.suppliers, name="suppliers"),
    path("suppliers/<int:pk>/", suppliers.supplier, name="supplier"),
    path("lots.csv", exports.lots_csv, name="lots-csv"),
    path("lots.json", exports.lots_json, name="lots-json"),
    path("L-<int:number>/lines.csv", exports.lines_csv, name="lines-csv"),
    path("L-<int:number>/lines.json", exports.lines_json, name="lines-json"),
    path("L-<int:number>/manifest/", manifests.upload, name="manifest-upload"),
    path("manifests/<int:pk>/", manifests.look, name="manifest"),
    path("plans/P-<int:number>/manifest/", manifests.upload_to_plan, name="plan-manifest"),
    path("plans/P-<int:number>/<slug:what>/", plan.decide, name="plan-decide"),
    path("L-<int:number>/lines/<int:pk>/", lot.lot_line, name="line"),
    path("L-<int:number>/not-bought/", lot.not_bought, name="not-bought"),
    path("L-<int:number>/lines/<int:pk>/not-come/", lot.line_not_come, name="line-not-come"),
    path("L-<int:number>/correct/", lot_form.correct, name="correct"),
]
