from django.apps import AppConfig


class FramesConfig(AppConfig):
    name = "widedusk.records.frames"
