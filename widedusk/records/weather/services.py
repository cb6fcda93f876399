"""The forecast for a place and night: fresh, else the last one there was, else none; and never a page that waits twice."""

import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any, Literal

from django.conf import settings
from django.db.models import Q

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.night.weather import Cover, Forecast, read_forecast
from widedusk.core.plan.outlook import night_of
from widedusk.core.scene import Spot as CoreSpot
from widedusk.core.sky.time import datetime_from_mjd, solar_midnight
from widedusk.records.clock import true_now
from widedusk.records.grounds.models import Place
from widedusk.records.weather.models import ForecastService, StoredForecast

FRESH = timedelta(hours=1)
REST, LONGEST_REST = timedelta(seconds=5), timedelta(minutes=5)  # of a service that failed
ASK_AGAIN = timedelta(seconds=10)  # a worker that was sent for a forecast is given so long
KEEP_FOR = timedelta(days=60)  # after its night
MOMENT_S = 0.25  # that a page waits for what was just sent for
State = Literal["fresh", "asked", "stale", "missing", "off", "file"]
Send = Callable[[int, date], None]


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


def _resting(address: str) -> str:
    """Why a service is not asked just now; empty when it may be."""
    row = ForecastService.objects.filter(address=address, rests_until__gt=true_now()).first()
    return row.failure if row else ""


def _at(place: Place) -> str:
    return f"{place.latitude_deg:.3f} {place.longitude_deg:.3f}"


def fetch(place: Place, night: date) -> None:
    """Ask the service for a place and night and note what came of it; the last good answer is never lost. A worker does this.

    After a failure the service rests, at first for REST and each time twice as long up to LONGEST_REST.
    """
    from widedusk.outside.forecast import NoForecast, ask_over_http, first_hour  # noqa: PLC0415 - not in the web server

    address = settings.WIDE_DUSK_FORECAST_URL
    if not address or _resting(address):
        return
    service, _ = ForecastService.objects.get_or_create(address=address)
    first = first_hour(datetime_from_mjd(solar_midnight(night, math.radians(place.longitude_deg))))
    try:
        document = ask_over_http(address, settings.WIDE_DUSK_FORECAST_KEY)(place.latitude_deg, place.longitude_deg, first)
        try:
            read_forecast(document)
        except InvalidInput as caught:
            raise NoForecast(f"{caught.faults[0].message} ({caught.faults[0].field})") from caught
    except NoForecast as why:
        told = storable(str(why))[:300]
        service.failures = min(service.failures + 1, 1000)
        service.rests_until = true_now() + min(REST * 2 ** min(service.failures - 1, 10), LONGEST_REST)
        service.failure = told
        now_known = {"failed_at": true_now(), "failure": told}
    else:
        service.failures, service.rests_until, service.failure = 0, None, ""
        now_known = {"document": document, "fetched_at": true_now(), "failed_at": None, "failure": "", "at": _at(place)}
    service.save()
    if not StoredForecast.objects.filter(place=place, night=night, uploaded=True).exists():
        StoredForecast.objects.update_or_create(place=place, night=night, defaults=now_known)


def _sent_for(row: StoredForecast, send: Send) -> bool:
    """Send a worker for a forecast unless one was sent lately. True when it was sent now."""
    lately = Q(asked_at__gt=true_now() - ASK_AGAIN)
    if not StoredForecast.objects.filter(pk=row.pk).exclude(lately).update(asked_at=true_now()):
        return False
    send(row.place_id, row.night)
    return True


def outlook(place: Place, night: date, send: Send, wait_s: float = MOMENT_S) -> Outlook:
    """The weather of a night as far as it is known here. What is missing or old is sent for; the page waits a moment at most.

    wait_s: who asks about many nights waits for none. send: puts the fetching of a place's night in line for a worker.
    """
    uploaded = StoredForecast.objects.filter(place=place, night=night, uploaded=True, at=_at(place)).first()
    if uploaded is not None and uploaded.fetched_at is not None:
        return Outlook("file", read_forecast(uploaded.document), uploaded.fetched_at, "")
    return _from_service(place, night, send, wait_s)


def _from_service(place: Place, night: date, send: Send, wait_s: float) -> Outlook:
    address = settings.WIDE_DUSK_FORECAST_URL
    if not address:
        return Outlook("off", None, None, "No forecast service is set up; type the weather under “How”.")
    row, _ = StoredForecast.objects.get_or_create(place=place, night=night, defaults={"at": _at(place)})
    if row.at != _at(place):  # the place has been moved since
        row.at, row.document, row.fetched_at, row.asked_at = _at(place), None, None, None
        row.save()
    failure = row.failure
    if row.fetched_at is None or true_now() - row.fetched_at > FRESH:
        failure = _resting(address)
        if not failure and _sent_for(row, send):
            until = time.monotonic() + wait_s
            while time.monotonic() < until and (row.fetched_at is None or true_now() - row.fetched_at > FRESH) and not failure:
                time.sleep(0.03)
                row.refresh_from_db()
                failure = row.failure
        failure = failure or row.failure
    if row.document is None or row.fetched_at is None:
        if not failure:
            return Outlook("asked", None, None, "The forecast is being fetched.")
        return Outlook("missing", None, None, f"{failure} Type the weather under “How” if you know it.")
    forecast = read_forecast(row.document)
    if true_now() - row.fetched_at <= FRESH:
        return Outlook("fresh", forecast, row.fetched_at, "")
    if not failure:
        return Outlook("asked", forecast, row.fetched_at, "")
    return Outlook("stale", forecast, row.fetched_at, f"{failure} This forecast is {_age(row.fetched_at)} old.")


def keep_forecast_file(place: Place, night: date, name: str, document: dict[str, Any]) -> None:
    """Keep a forecast that somebody brought for a night; it stands until it is removed. Raises InvalidInput.

    document: as outside/coverage.py makes it of a file."""
    forecast = read_forecast(document)
    spot = CoreSpot(place.name, place.latitude_deg, place.longitude_deg, place.height_m or 0.0, place.time_zone, place.sky_mag)
    if not Cover(forecast, night_of(spot, night)).whole:
        first, last = (f"{spot.local(float(one)):%d %b %H:%M}" for one in (forecast.mjd[0], forecast.mjd[-1]))
        told = f"“{name}” tells {first} to {last}; that does not reach from sunset to sunrise of this night."
        raise InvalidInput([Fault("file", name, told)])
    known = {"document": document, "fetched_at": true_now(), "failed_at": None, "failure": "", "at": _at(place), "uploaded": True}
    StoredForecast.objects.update_or_create(place=place, night=night, defaults=known)


def forget_forecast_file(place: Place, night: date) -> None:
    """The service, if there is one, tells that night again."""
    StoredForecast.objects.filter(place=place, night=night, uploaded=True).delete()


def let_old_forecasts_go() -> int:
    """Forecasts of nights long past."""
    return StoredForecast.objects.filter(night__lt=true_now().date() - KEEP_FOR).delete()[0]
