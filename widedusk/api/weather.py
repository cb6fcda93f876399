"""The forecast as it bears on an answer: choices in which it stands where nothing was typed."""

from datetime import date, datetime
from typing import NamedTuple

from ninja import Schema

from widedusk.core.choices import Choices
from widedusk.core.kit.dew import Air
from widedusk.core.night.weather import Cover, Forecast, air_of, typed_over, weather_of, with_forecast
from widedusk.core.plan.outlook import night_of
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.weather.services import Outlook, State, outlook


class WeatherOut(Schema):
    state: State
    reaches: bool  # from sunset to sunrise
    typed: bool  # weather of one's own stands under “How” and wins
    fetched_at: datetime | None
    source: str
    words: str


class NightWeather(NamedTuple):
    """What the weather does to a question about one night."""

    choices: Choices  # the forecast's figures where nothing was typed
    forecast: Forecast | None  # typed figures in its place
    told: WeatherOut
    air: Air | None  # from set-up to sunrise


def choices_with_weather(choices: Choices, row: Spot, night: date) -> NightWeather:
    """The weather of one spot and night. Raises InvalidInput for a date out of reach."""
    found: Outlook = outlook(row.place, night, send_for_forecast)
    weather = weather_of(Cover(found.forecast, night_of(spot_of(row), night))) if found.forecast else None
    words = found.words
    if found.forecast and weather is None:
        words = f"{words} The forecast does not reach this night yet.".strip()
    told = WeatherOut(
        state=found.state,
        reaches=weather is not None,
        typed=choices.air_evening_c is not None or choices.air_low_c is not None,
        fetched_at=found.fetched_at,
        source=found.forecast.source if found.forecast else "",
        words=words,
    )
    sky = night_of(spot_of(row), night)
    forecast = typed_over(Cover(found.forecast, sky), choices).forecast if found.forecast else None
    return NightWeather(with_forecast(choices, weather), forecast, told, air_of(sky, forecast, choices))
