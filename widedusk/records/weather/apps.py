from django.apps import AppConfig


class WeatherConfig(AppConfig):
    name = "widedusk.records.weather"
