from django.apps import AppConfig


class PoleConfig(AppConfig):
    name = "widedusk.records.pole"
