from django.apps import AppConfig


class NightsConfig(AppConfig):
    name = "widedusk.records.nights"
