"""The forecast as it bears on one night at one spot."""

from dataclasses import dataclass
from datetime import date

from widedusk.core.choices import Choices
from widedusk.core.kit.dew import Air
from widedusk.core.night.weather import Cover, Forecast, air_of, typed_over, weather_of, with_forecast
from widedusk.core.plan.outlook import night_of
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.weather.services import MOMENT_S, Outlook, Send, outlook


@dataclass(frozen=True)
class NightWeather:
    """What the weather does to a question about one night."""

    choices: Choices  # the forecast's figures where nothing was typed
    forecast: Forecast | None  # typed figures in its place
    air: Air | None  # from set-up to sunrise
    outlook: Outlook
    reaches: bool  # from sunset to sunrise


def night_weather(choices: Choices, row: Spot, night: date, send: Send, wait_s: float = MOMENT_S) -> NightWeather:
    """The weather of one spot and night. send: fetches what is missing. Raises InvalidInput for a date out of reach."""
    found, sky = outlook(row.place, night, send, wait_s), night_of(spot_of(row), night)
    cover = Cover(found.forecast, sky) if found.forecast else None
    weather = weather_of(cover) if cover else None
    forecast = typed_over(cover, choices).forecast if cover else None
    return NightWeather(with_forecast(choices, weather), forecast, air_of(sky, forecast, choices), found, weather is not None)
