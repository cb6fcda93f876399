"""A forecast service with invented weather: python -m standins.forecast --port 8099

It speaks OGC API – Environmental Data Retrieval: one collection, position queries, CoverageJSON; 400 with a reason for what it
cannot read. The same place and hour always have the same weather, whenever they are asked for: slow waves with a seed by place.
"""

import argparse
import hashlib
import json
import math
import re
from datetime import UTC, datetime, timedelta
from email.utils import format_datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

MOST_HOURS = 240
COLLECTION = "weather"


def _waves(seed: str, days: float, periods: tuple[float, ...]) -> float:
    """A smooth value of -1..1: the mean of sines with phases drawn from the seed."""
    drawn = hashlib.sha256(seed.encode()).digest()
    return sum(math.sin(2 * math.pi * (days / period + drawn[place] / 256)) for place, period in enumerate(periods)) / len(periods)


NAMES = "http://vocab.nerc.ac.uk/standard_name/"
# CF standard name, what a person calls it, unit by UCUM.
PARAMETERS = {
    "air_temperature": ("Air temperature", "K"),
    "dew_point_temperature": ("Dew point", "K"),
    "wind_speed": ("Wind", "m/s"),
    "wind_speed_of_gust": ("Gusts", "m/s"),
    "low_type_cloud_area_fraction": ("Low cloud", "%"),
    "medium_type_cloud_area_fraction": ("Middle cloud", "%"),
    "high_type_cloud_area_fraction": ("High cloud", "%"),
    "precipitation_amount": ("Precipitation of an hour", "kg.m-2"),
    "visibility_in_air": ("Visibility", "m"),
}


def weather_at(latitude_deg: float, longitude_deg: float, moment: datetime) -> dict[str, float]:
    """The invented hour, by CF standard names."""
    place = f"{latitude_deg:.1f} {longitude_deg:.1f}"
    days = moment.timestamp() / 86400
    season = -math.cos(2 * math.pi * (moment.timetuple().tm_yday - 15) / 365.25) * (1 if latitude_deg >= 0 else -1)
    solar_hour = (moment.hour + moment.minute / 60 + longitude_deg / 15) % 24
    day_wave = math.cos(2 * math.pi * (solar_hour - 15) / 24)
    damp = _waves(f"{place} damp", days, (3.1, 5.7, 11.0))
    height_m = 900.0 + 900.0 * _waves(f"{place} ground", 0.0, (1.0, 2.0, 3.0))
    mean = 27 - 0.42 * abs(latitude_deg) + 0.16 * abs(latitude_deg) * season - 0.0035 * height_m
    air = mean + 6.5 * (1 - 0.4 * damp) * day_wave + 3 * _waves(f"{place} air", days, (4.3, 7.9))
    moist = min(max(62 + 26 * damp - 18 * day_wave, 8), 99)
    gamma = math.log(moist / 100) + 17.62 * air / (243.12 + air)  # Magnus, over water
    wind = max(0.4, 3.2 + 2.8 * _waves(f"{place} wind", days, (0.6, 2.2, 4.9)) + 0.8 * day_wave)

    def layer(name: str, lean: float) -> int:
        return round(100 * min(max(0.75 * _waves(f"{place} {name}", days, (0.37, 1.3, 3.1)) + 0.45 * damp + lean, 0.0), 1.0))

    low = layer("low", -0.2)
    return {
        "air_temperature": round(air + 273.15, 2),
        "dew_point_temperature": round(243.12 * gamma / (17.62 - gamma) + 273.15, 2),
        "wind_speed": round(wind, 1),
        "wind_speed_of_gust": round(1.5 * wind, 1),
        "low_type_cloud_area_fraction": low,
        "medium_type_cloud_area_fraction": layer("middle", -0.15),
        "high_type_cloud_area_fraction": layer("high", 0.0),
        "precipitation_amount": round(max(low - 85, 0) / 10, 1),
        "visibility_in_air": round(40_000 - 350 * moist),
    }


def _parameter(name: str) -> dict[str, object]:
    label, unit = PARAMETERS[name]
    return {
        "type": "Parameter",
        "observedProperty": {"id": f"{NAMES}{name}/", "label": {"en": label}},
        "unit": {"symbol": {"value": unit, "type": "http://www.opengis.net/def/uom/UCUM/"}},
    }


def collection(base: str) -> dict[str, object]:
    """What the one collection holds, and how it is asked."""
    here = f"{base}/collections/{COLLECTION}"
    query = {
        "title": "At a point",
        "query_type": "position",
        "output_formats": ["CoverageJSON"],
        "default_output_format": "CoverageJSON",
    }
    flat = {
        name: {**_parameter(name), "observedProperty": {"id": f"{NAMES}{name}/", "label": PARAMETERS[name][0]}}
        for name in PARAMETERS
    }
    return {
        "id": COLLECTION,
        "title": "Stand-in service with invented weather",
        "links": [{"href": here, "rel": "self", "type": "application/json"}],
        "extent": {"spatial": {"bbox": [[-180, -90, 180, 90]], "crs": "CRS84"}},
        "data_queries": {"position": {"link": {"href": f"{here}/position", "rel": "data", "variables": query}}},
        "crs": ["CRS84"],
        "output_formats": ["CoverageJSON"],
        "parameter_names": flat,
    }


POINT = re.compile(r"POINT\s*\(\s*(-?[\d.]+)\s+(-?[\d.]+)\s*\)", re.IGNORECASE)


def coverage(asked: dict[str, str]) -> dict[str, object]:
    """The answer to a position query. Raises ValueError with what is wrong."""
    found = POINT.fullmatch(asked["coords"].strip())
    if not found:
        raise ValueError("coords is no POINT(longitude latitude)")
    longitude, latitude = float(found[1]), float(found[2])
    first, last = (datetime.fromisoformat(one).astimezone(UTC) for one in asked["datetime"].split("/"))
    hours = round((last - first) / timedelta(hours=1)) + 1
    names = [one for one in asked.get("parameter-name", ",".join(PARAMETERS)).split(",") if one]
    if not (abs(latitude) <= 90 and abs(longitude) <= 180 and 1 <= hours <= MOST_HOURS):
        raise ValueError("place or hours out of range")
    if unknown := set(names) - set(PARAMETERS):
        raise ValueError(f"no such parameter: {sorted(unknown)[0]}")
    moments = [first + timedelta(hours=hour) for hour in range(hours)]
    rows = [weather_at(latitude, longitude, one) for one in moments]
    axes = {
        "x": {"values": [longitude]},
        "y": {"values": [latitude]},
        "t": {"values": [f"{one:%Y-%m-%dT%H:%M:%SZ}" for one in moments]},
    }
    where = {"type": "GeographicCRS", "id": "http://www.opengis.net/def/crs/OGC/1.3/CRS84"}
    when = {"type": "TemporalRS", "calendar": "Gregorian"}
    return {
        "type": "Coverage",
        "domain": {
            "type": "Domain",
            "domainType": "PointSeries",
            "axes": axes,
            "referencing": [{"coordinates": ["x", "y"], "system": where}, {"coordinates": ["t"], "system": when}],
        },
        "parameters": {name: _parameter(name) for name in names},
        "ranges": {
            name: {
                "type": "NdArray",
                "dataType": "float",
                "axisNames": ["t"],
                "shape": [hours],
                "values": [float(row[name]) for row in rows],
            }
            for name in names
        },
    }


class Handler(BaseHTTPRequestHandler):
    """The collections, the one of them, and positions in it; GET /health."""

    def do_GET(self) -> None:
        parts = urlsplit(self.path)
        base = f"http://{self.headers.get('Host', '')}"
        here = f"/collections/{COLLECTION}"
        if parts.path == "/health":
            self._say(200, {"ok": True})
        elif parts.path == "/collections":
            self._say(200, {"links": [{"href": base + parts.path, "rel": "self"}], "collections": [collection(base)]})
        elif parts.path == here:
            self._say(200, collection(base))
        elif parts.path == f"{here}/position":
            try:
                self._say(200, coverage({name: values[0] for name, values in parse_qs(parts.query).items()}))
            except (KeyError, ValueError, OverflowError) as wrong:
                self._say(400, {"code": "400", "description": str(wrong)})
        else:
            self._say(404, {"code": "404", "description": "There is nothing at this address."})

    def _say(self, status: int, document: object) -> None:
        body = json.dumps(document).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        # As if a run of a model were finished every hour.
        self.send_header(
            "Last-Modified", format_datetime(datetime.now(UTC).replace(minute=0, second=0, microsecond=0), usegmt=True)
        )
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Quiet."""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, required=True)
    ThreadingHTTPServer(("127.0.0.1", parser.parse_args().port), Handler).serve_forever()


if __name__ == "__main__":
    main()
