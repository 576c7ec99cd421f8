from django.apps import AppConfig


class BackupConfig(AppConfig):
    name = "stations.backup"
    label = "backup"
