"""The forecast as it bears on an answer: choices in which it stands where nothing was typed."""

from datetime import date, datetime

from ninja import Schema

from widedusk.core.choices import Choices
from widedusk.core.night.weather import issued_words
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.grounds.models import Spot
from widedusk.records.weather.nights import NightWeather, night_weather
from widedusk.records.weather.services import State


class WeatherOut(Schema):
    state: State
    reaches: bool  # from sunset to sunrise
    typed: bool  # weather of one's own stands under “How” and wins
    fetched_at: datetime | None
    source: str
    issued: str  # in words; empty where the service does not say
    missing: list[str]  # what the service might tell and does not, by CF standard names
    words: str

    @staticmethod
    def of(found: NightWeather, typed: Choices) -> "WeatherOut":
        """typed: the choices as they were asked with."""
        words, forecast = found.outlook.words, found.outlook.forecast
        if forecast and not found.reaches:
            words = f"{words} The forecast does not reach this night yet.".strip()
        return WeatherOut(
            state=found.outlook.state,
            reaches=found.reaches,
            typed=typed.air_evening_c is not None or typed.air_low_c is not None,
            fetched_at=found.outlook.fetched_at,
            source=forecast.source if forecast else "",
            issued=issued_words(forecast.issued) if forecast else "",
            missing=list(forecast.missing) if forecast else [],
            words=words,
        )


def choices_with_weather(choices: Choices, row: Spot, night: date) -> NightWeather:
    """The weather of one spot and night, sent for where it is missing. Raises InvalidInput for a date out of reach."""
    return night_weather(choices, row, night, send_for_forecast)
