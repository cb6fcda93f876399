from django.apps import AppConfig


class HabitsConfig(AppConfig):
    name = "widedusk.records.habits"
