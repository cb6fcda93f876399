from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "widedusk.records.plans"
