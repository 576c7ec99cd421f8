from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "stations.ledger"
    label = "ledger"
