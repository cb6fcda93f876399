from django.apps import AppConfig


class PicturesConfig(AppConfig):
    name = "widedusk.records.pictures"
