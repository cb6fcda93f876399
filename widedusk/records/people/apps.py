from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "widedusk.records.people"
