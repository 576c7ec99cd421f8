from django.urls import path

from stations.catalogue.views import models, numbering, strip

app_name = "catalogue"
urlpatterns = [
    path("models/", models.models, name="models"),
    path("models/import/", models.take_in, name="import-models"),
    path("models/numbering/", numbering.numbering, name="numbering"),
    path("models/<int:pk>/", models.model, name="model"),
    path("models/<int:pk>/strip-down/", strip.strip, name="strip"),
    path("models/<int:pk>/strip-down/one/", strip.one, name="strip-one"),
    path("models.<str:form>", models.export, name="export-models"),
]
