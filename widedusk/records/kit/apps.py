from django.apps import AppConfig


class KitConfig(AppConfig):
    name = "widedusk.records.kit"
