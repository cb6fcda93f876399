from django.apps import AppConfig


class TargetsConfig(AppConfig):
    name = "widedusk.records.targets"
