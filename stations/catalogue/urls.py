from django.urls import path

from stations.catalogue.views import fit, models, numbering, recipes, strip, weaknesses

app_name = "catalogue"
urlpatterns = [
    path("intake/models/", models.models, name="models"),
    path("intake/models/import/", models.take_in, name="import-models"),
    path("intake/models/numbering/", numbering.numbering, name="numbering"),
    path("intake/models/numbering/<slug:what>/<int:pk>/drop/", numbering.drop, name="drop-numbering"),
    path("intake/models/<int:pk>/", models.model, name="model"),
    path("intake/models/<int:pk>/offers/", fit.offers, name="offers"),
    path("intake/models/<int:pk>/offers/drawn/", fit.offers_drawn, name="offers-drawn"),
    path("workshop/part-sheets/", fit.sheets, name="part-sheets"),
    path("workshop/part-sheets/new/", fit.sheet, name="part-sheet-new"),
    path("workshop/part-sheets.<str:form>", fit.export_parts, name="export-parts"),
    path("workshop/part-sheets/import/", fit.import_parts, name="import-parts"),
    path("workshop/part-sheets/of/", fit.sheet_of, name="part-sheet-of"),
    path("workshop/part-sheets/<int:pk>/", fit.sheet, name="part-sheet"),
    path("workshop/part-sheets/<int:pk>/tried/", fit.keep_tried, name="keep-tried"),
    path("workshop/part-sheets/<int:pk>/drop/", fit.drop_sheet, name="drop-sheet"),
    path("workshop/tried/<int:pk>/drop/", fit.drop_tried, name="drop-tried"),
    path("intake/models/<int:pk>/strip-down/", strip.strip, name="strip"),
    path("intake/models/<int:pk>/strip-down/one/", strip.one, name="strip-one"),
    path("workshop/recipes/", recipes.recipes, name="recipes"),
    path("workshop/recipes/new/", recipes.new, name="recipe-new"),
    path("workshop/recipes/<slug:code>/", recipes.recipe, name="recipe"),
    path("workshop/recipes/<slug:code>/use/", recipes.use, name="recipe-use"),
    path("workshop/recipes/<slug:code>/step/", recipes.step, name="recipe-step"),
    path("workshop/recipes/<slug:code>/arrange/", recipes.arrange, name="recipe-arrange"),
    path("intake/models.<str:form>", models.export, name="export-models"),
    path("workshop/weaknesses/", weaknesses.all_weaknesses, name="weaknesses"),
    path("workshop/weaknesses/<int:pk>/", weaknesses.all_weaknesses, name="weakness"),
    path("workshop/weaknesses/<int:pk>/drop/", weaknesses.drop, name="drop-weakness"),
]
