"""The forecast as it bears on an answer: choices in which it stands where nothing was typed."""

from datetime import date, datetime

from ninja import Schema

from widedusk.core.choices import Choices
from widedusk.core.night.outlook import night_of
from widedusk.core.night.weather import Cover, Forecast, typed_over, weather_of, with_forecast
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


def choices_with_weather(choices: Choices, row: Spot, night: date) -> tuple[Choices, Forecast | None, WeatherOut]:
    """Choices, forecast and what to tell of it, for one spot and night. Raises InvalidInput for a date out of reach."""
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
    forecast = typed_over(Cover(found.forecast, night_of(spot_of(row), night)), choices).forecast if found.forecast else None
    return with_forecast(choices, weather), forecast, told
