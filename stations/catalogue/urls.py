from django.urls import path

from stations.catalogue.views import models, numbering

app_name = "catalogue"
urlpatterns = [
    path("models/", models.models, name="models"),
    path("models/import/", models.take_in, name="import-models"),
    path("models/numbering/", numbering.numbering, name="numbering"),
    path("models/<int:pk>/", models.model, name="model"),
    path("models.<str:form>", models.export, name="export-models"),
]
