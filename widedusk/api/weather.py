"""The forecast as it bears on an answer: choices in which it stands where nothing was typed."""

from datetime import date, datetime

from ninja import Schema

from widedusk.core.choices import Choices
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
    words: str

    @staticmethod
    def of(found: NightWeather, typed: Choices) -> "WeatherOut":
        """typed: the choices as they were asked with."""
        words = found.outlook.words
        if found.outlook.forecast and not found.reaches:
            words = f"{words} The forecast does not reach this night yet.".strip()
        return WeatherOut(
            state=found.outlook.state,
            reaches=found.reaches,
            typed=typed.air_evening_c is not None or typed.air_low_c is not None,
            fetched_at=found.outlook.fetched_at,
            source=found.outlook.forecast.source if found.outlook.forecast else "",
            words=words,
        )


def choices_with_weather(choices: Choices, row: Spot, night: date) -> NightWeather:
    """The weather of one spot and night, sent for where it is missing. Raises InvalidInput for a date out of reach."""
    return night_weather(choices, row, night, send_for_forecast)
