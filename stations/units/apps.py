from io import StringIO

from django.apps import AppConfig
from django.core.management import call_command
from django.db import connections
from django.db.migrations.executor import MigrationExecutor
from django.db.models.signals import post_migrate


class UnitsConfig(AppConfig):
    name = "stations.units"
    label = "units"

    def ready(self) -> None:
        post_migrate.connect(stand_where_they_should, sender=self)


def stand_where_they_should(plan=(), using="default", **kwargs) -> None:
    """After an upgrade: what a stage rests on may be told otherwise by the new tables, or judged by new rules."""
    executor = MigrationExecutor(connections[using])
    if plan and not executor.migration_plan(executor.loader.graph.leaf_nodes()):
        call_command("rebuild_stages", stdout=StringIO())
