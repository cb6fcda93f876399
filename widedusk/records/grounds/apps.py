from django.apps import AppConfig


class GroundsConfig(AppConfig):
    name = "widedusk.records.grounds"
