from django.urls import path

from stations.catalogue import views

app_name = "catalogue"
urlpatterns = [
    path("models/", views.models, name="models"),
    path("models/import/", views.take_in, name="import-models"),
    path("models/numbering/", views.numbering, name="numbering"),
    path("models/<int:pk>/", views.model, name="model"),
    path("models.<str:form>", views.export, name="export-models"),
]
