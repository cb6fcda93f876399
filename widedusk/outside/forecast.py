"""An hourly forecast over HTTP. The answer is described in docs/formats.md; standins/forecast.py speaks it too."""

import json
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import httpx

WAIT_S = 2.5  # in all, however slowly the service drips
MOST_BYTES = 500_000
HOURS = 30  # from the noon before the night


class NoForecast(Exception):
    """The service gave no usable answer; the text says why, for a person."""


Ask = Callable[[float, float, float, datetime], object]  # latitude, longitude, height, first hour -> the JSON document


def _refuse_constant(word: str) -> float:
    raise NoForecast(f"The forecast service sent {word}, which is no number.")


def ask_over_http(address: str) -> Ask:
    """A way to ask the service at this address."""

    def ask(latitude_deg: float, longitude_deg: float, height_m: float, first: datetime) -> object:
        """The service's document. Raises NoForecast."""
        given = {
            "latitude_deg": f"{latitude_deg:.4f}",
            "longitude_deg": f"{longitude_deg:.4f}",
            "height_m": f"{height_m:.0f}",
            "from": first.astimezone(UTC).strftime("%Y-%m-%dT%H:%MZ"),
            "hours": str(HOURS),
        }
        begun = time.monotonic()
        content = b""
        try:
            with httpx.stream("GET", address, params=given, timeout=WAIT_S, follow_redirects=False) as answer:
                if answer.status_code != httpx.codes.OK:
                    raise NoForecast(f"The forecast service answered {answer.status_code}.")
                for piece in answer.iter_bytes():
                    content += piece
                    if time.monotonic() - begun > WAIT_S:
                        raise NoForecast(f"The forecast service took longer than {WAIT_S:g} s.")
                    if len(content) > MOST_BYTES:
                        raise NoForecast("The forecast service sent more than a forecast.")
        except httpx.TimeoutException as caught:
            raise NoForecast(f"The forecast service took longer than {WAIT_S:g} s.") from caught
        except httpx.HTTPError as caught:
            raise NoForecast("The forecast service cannot be reached.") from caught
        try:
            return json.loads(content, parse_constant=_refuse_constant)
        except (ValueError, RecursionError) as caught:
            raise NoForecast("The forecast service sent something other than a forecast.") from caught

    return ask


def first_hour(solar_midnight: datetime) -> datetime:
    """The full hour from which a night's forecast is asked for: 15 h before its middle."""
    return (solar_midnight - timedelta(hours=HOURS / 2)).replace(minute=0, second=0, microsecond=0)
