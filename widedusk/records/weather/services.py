"""The forecast for a place and night: fresh, else the last one there was, else none; and never a page that waits twice."""

import math
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Literal

from django.conf import settings

from widedusk.core.errors import InvalidInput
from widedusk.core.night.weather import Forecast, read_forecast
from widedusk.core.sky.time import datetime_from_mjd, solar_midnight
from widedusk.outside.forecast import Ask, NoForecast, ask_over_http, first_hour
from widedusk.records.clock import true_now
from widedusk.records.grounds.models import Place
from widedusk.records.weather.models import StoredForecast

FRESH = timedelta(hours=1)
PAUSE = timedelta(seconds=15)  # after a failure, before the service is asked again
State = Literal["fresh", "stale", "missing", "off"]


@dataclass(frozen=True)
class Outlook:
    """What is known of a night's weather, and how well."""

    state: State
    forecast: Forecast | None
    fetched_at: datetime | None
    words: str  # for a person; empty when all is well


def _age(since: datetime) -> str:
    minutes = round((true_now() - since).total_seconds() / 60)
    if minutes < 120:
        return f"{minutes} min"
    return f"{round(minutes / 60)} h" if minutes < 48 * 60 else f"{round(minutes / 1440)} days"


def _read(document: object) -> Forecast:
    try:
        return read_forecast(document)
    except InvalidInput as caught:
        raise NoForecast(f"{caught.faults[0].message} ({caught.faults[0].field})") from caught


def _fetch(row: StoredForecast, ask: Ask) -> None:
    """Ask the service and note what came of it; the last good answer is never lost."""
    place = row.place
    first = first_hour(datetime_from_mjd(solar_midnight(row.night, math.radians(place.longitude_deg))))
    try:
        document = ask(place.latitude_deg, place.longitude_deg, place.height_m, first)
        _read(document)
    except NoForecast as why:
        row.failed_at, row.failure = true_now(), str(why)[:300]
    else:
        row.document, row.fetched_at, row.failed_at, row.failure = document, true_now(), None, ""
    StoredForecast.objects.update_or_create(
        place=place,
        night=row.night,
        defaults={name: getattr(row, name) for name in ("at", "document", "fetched_at", "failed_at", "failure")},
    )


def outlook(place: Place, night: date, ask: Ask | None = None) -> Outlook:
    """The weather of a night as far as it is known. Asks the service at most once a PAUSE, and waits for it a moment only."""
    if ask is None and not settings.WIDE_DUSK_FORECAST_URL:
        return Outlook("off", None, None, "No forecast service is set up; type the weather under “How”.")
    ask = ask or ask_over_http(settings.WIDE_DUSK_FORECAST_URL)
    at = f"{place.latitude_deg:.3f} {place.longitude_deg:.3f}"
    row = StoredForecast.objects.filter(place=place, night=night).first()
    if row is None or row.at != at:
        row = StoredForecast(pk=row.pk if row else None, place=place, night=night, at=at)
    fresh = row.fetched_at is not None and true_now() - row.fetched_at < FRESH
    paused = row.failed_at is not None and true_now() - row.failed_at < PAUSE
    if not fresh and not paused:
        _fetch(row, ask)
    if row.document is None or row.fetched_at is None:
        return Outlook("missing", None, None, f"{row.failure} Type the weather under “How” if you know it.")
    forecast = _read(row.document)
    if row.failed_at is None:
        return Outlook("fresh", forecast, row.fetched_at, "")
    return Outlook("stale", forecast, row.fetched_at, f"{row.failure} This forecast is {_age(row.fetched_at)} old.")
