from django.urls import path

from stations.backup.views import backups

app_name = "backup"
urlpatterns = [
    path("", backups.backups, name="backups"),
    path("make/", backups.make, name="make"),
    path("records/", backups.write_records, name="write-records"),
    path("bring-back/", backups.bring_back, name="bring-back"),
    path("take/", backups.take, name="take"),
]
