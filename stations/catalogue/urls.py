from django.urls import path

from stations.catalogue.views import models, numbering, recipes, strip

app_name = "catalogue"
urlpatterns = [
    path("models/", models.models, name="models"),
    path("models/import/", models.take_in, name="import-models"),
    path("models/numbering/", numbering.numbering, name="numbering"),
    path("models/<int:pk>/", models.model, name="model"),
    path("models/<int:pk>/strip-down/", strip.strip, name="strip"),
    path("models/<int:pk>/strip-down/one/", strip.one, name="strip-one"),
    path("recipes/", recipes.recipes, name="recipes"),
    path("recipes/new/", recipes.new, name="recipe-new"),
    path("recipes/<slug:code>/", recipes.recipe, name="recipe"),
    path("recipes/<slug:code>/use/", recipes.use, name="recipe-use"),
    path("recipes/<slug:code>/step/", recipes.step, name="recipe-step"),
    path("recipes/<slug:code>/arrange/", recipes.arrange, name="recipe-arrange"),
    path("models.<str:form>", models.export, name="export-models"),
]
