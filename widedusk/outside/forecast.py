"""A forecast from a collection of the OGC API – Environmental Data Retrieval (OGC 19-086r6), by a position query for CoverageJSON.
standins/forecast.py speaks it too."""

import json
import time
from collections.abc import Callable, Mapping
from datetime import UTC, datetime, timedelta
from email.utils import parsedate_to_datetime
from typing import Any

import httpx

from widedusk.core.errors import InvalidInput
from widedusk.outside.coverage import document_of, standard_name

WAIT_S = 2.5  # in all, however slowly the service drips; for what it has and for what it says
MOST_BYTES = 500_000
HOURS = 30  # from the noon before the night
KEPT_S = 3600.0  # that we remember what a collection holds
_collections: dict[str, tuple[float, Mapping[str, Any]]] = {}


class NoForecast(Exception):
    """The service gave no usable answer; the text says why, for a person."""


Ask = Callable[
    [float, float, datetime], dict[str, Any]
]  # latitude, longitude, first hour -> hours that core/night/weather.py reads


def _refuse_constant(word: str) -> float:
    raise NoForecast(f"The forecast service sent {word}, which is no number.")


def _fetched(address: str, query: Mapping[str, str], key: str) -> tuple[Any, httpx.Headers]:
    """A JSON document. key: “Header: value” or “name=value” for the query. Raises NoForecast."""
    headers: dict[str, str] = {}
    if ":" in key:
        name, _, value = key.partition(":")
        headers[name.strip()] = value.strip()
    elif "=" in key:
        name, _, value = key.partition("=")
        query = {**query, name.strip(): value.strip()}
    begun, content = time.monotonic(), b""
    try:
        with httpx.stream("GET", address, params=query, headers=headers, timeout=WAIT_S, follow_redirects=False) as answer:
            if answer.status_code != httpx.codes.OK:
                raise NoForecast(f"The forecast service answered {answer.status_code}.")
            for piece in answer.iter_bytes():
                content += piece
                if time.monotonic() - begun > WAIT_S:
                    raise NoForecast(f"The forecast service took longer than {WAIT_S:g} s.")
                if len(content) > MOST_BYTES:
                    raise NoForecast("The forecast service sent more than a forecast.")
            told = answer.headers
    except httpx.TimeoutException as caught:
        raise NoForecast(f"The forecast service took longer than {WAIT_S:g} s.") from caught
    except (httpx.HTTPError, httpx.InvalidURL) as caught:
        raise NoForecast("The forecast service cannot be reached.") from caught
    try:
        return json.loads(content, parse_constant=_refuse_constant), told
    except (ValueError, RecursionError) as caught:
        raise NoForecast("The forecast service sent something other than a forecast.") from caught


def _collection(address: str, key: str) -> Mapping[str, Any]:
    """What the service says of the collection at this address."""
    kept = _collections.get(address)
    if kept is not None and time.monotonic() - kept[0] < KEPT_S:
        return kept[1]
    found, _ = _fetched(address, {"f": "json"}, key)
    if not isinstance(found, Mapping) or not isinstance(found.get("parameter_names"), Mapping):
        raise NoForecast("At the address of the forecast service is no collection of OGC API – Environmental Data Retrieval.")
    _collections[address] = time.monotonic(), found
    return found


def _wanted(collection: Mapping[str, Any]) -> list[str]:
    """Keys of the parameters that tell what we know, one for each."""
    found: dict[str, str] = {}
    for key, told in collection["parameter_names"].items():
        observed = told.get("observedProperty") if isinstance(told, Mapping) else None
        observed = observed if isinstance(observed, Mapping) else {}
        if name := standard_name(str(key), observed.get("label"), observed.get("id")):
            found.setdefault(name, str(key))
    return list(found.values())


def _format(collection: Mapping[str, Any]) -> str:
    """How this service calls CoverageJSON."""
    offered = [str(one) for one in collection.get("output_formats") or ()]
    return next((one for one in offered if "cov" in one.lower()), "CoverageJSON")


def _issued(headers: httpx.Headers) -> datetime | None:
    """When what was sent was last changed, where the service says so."""
    try:
        return parsedate_to_datetime(headers["Last-Modified"]).astimezone(UTC)
    except (KeyError, ValueError, TypeError):
        return None


def ask_over_http(address: str, key: str = "") -> Ask:
    """A way to ask the collection at this address."""
    address = address.rstrip("/")

    def ask(latitude_deg: float, longitude_deg: float, first: datetime) -> dict[str, Any]:
        """The night's hours. Raises NoForecast."""
        collection = _collection(address, key)
        begins, ends = (one.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ") for one in (first, first + timedelta(hours=HOURS - 1)))
        query = {
            "coords": f"POINT({longitude_deg:.4f} {latitude_deg:.4f})",
            "datetime": f"{begins}/{ends}",
            "parameter-name": ",".join(_wanted(collection)),
            "f": _format(collection),
        }
        document, headers = _fetched(f"{address}/position", query, key)
        source = str(collection.get("title") or collection.get("id") or "Forecast service")[:120]
        try:
            return document_of(document, source, _issued(headers))
        except InvalidInput as wrong:
            raise NoForecast(wrong.faults[0].message) from wrong

    return ask


def first_hour(solar_midnight: datetime) -> datetime:
    """The full hour from which a night's forecast is asked for: 15 h before its middle."""
    return (solar_midnight - timedelta(hours=HOURS / 2)).replace(minute=0, second=0, microsecond=0)
