from django.apps import AppConfig, apps
from django.db.models.signals import pre_migrate


class BackupConfig(AppConfig):
    name = "stations.backup"
    label = "backup"

    def ready(self) -> None:
        from stations.backup.upgrades import keep_as_it_was

        # Told for every room with tables; this one has none.
        pre_migrate.connect(keep_as_it_was, sender=apps.get_app_config("people"))
