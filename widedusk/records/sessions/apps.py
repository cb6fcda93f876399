from django.apps import AppConfig


class SessionsConfig(AppConfig):
    name = "widedusk.records.sessions"
    label = "gathered"  # "sessions" is Django's own
