"""A forecast service with invented weather: python -m standins.forecast --port 8099

The same place and hour always have the same weather, whenever they are asked for: slow waves with a seed by place.
It answers as docs/formats.md says, and 422 with a reason for what it cannot read.
"""

import argparse
import hashlib
import json
import math
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

MOST_HOURS = 240


def _waves(seed: str, days: float, periods: tuple[float, ...]) -> float:
    """A smooth value of -1..1: the mean of sines with phases drawn from the seed."""
    drawn = hashlib.sha256(seed.encode()).digest()
    return sum(math.sin(2 * math.pi * (days / period + drawn[place] / 256)) for place, period in enumerate(periods)) / len(periods)


def weather_at(latitude_deg: float, longitude_deg: float, height_m: float, moment: datetime) -> dict[str, object]:
    """The invented hour."""
    place = f"{latitude_deg:.1f} {longitude_deg:.1f}"
    days = moment.timestamp() / 86400
    season = -math.cos(2 * math.pi * (moment.timetuple().tm_yday - 15) / 365.25) * (1 if latitude_deg >= 0 else -1)
    solar_hour = (moment.hour + moment.minute / 60 + longitude_deg / 15) % 24
    day_wave = math.cos(2 * math.pi * (solar_hour - 15) / 24)
    damp = _waves(f"{place} damp", days, (3.1, 5.7, 11.0))
    mean = 27 - 0.42 * abs(latitude_deg) + 0.16 * abs(latitude_deg) * season - 0.0035 * height_m
    air = mean + 6.5 * (1 - 0.4 * damp) * day_wave + 3 * _waves(f"{place} air", days, (4.3, 7.9))
    moist = 62 + 26 * damp - 18 * day_wave

    def layer(name: str, lean: float) -> int:
        return round(100 * min(max(0.75 * _waves(f"{place} {name}", days, (0.37, 1.3, 3.1)) + 0.45 * damp + lean, 0.0), 1.0))

    return {
        "time": moment.strftime("%Y-%m-%dT%H:%MZ"),
        "temperature_c": round(air, 1),
        "humidity_percent": round(min(max(moist, 8), 99)),
        "wind_m_s": round(max(0.4, 3.2 + 2.8 * _waves(f"{place} wind", days, (0.6, 2.2, 4.9)) + 0.8 * day_wave), 1),
        "cloud_low_percent": layer("low", -0.2),
        "cloud_middle_percent": layer("middle", -0.15),
        "cloud_high_percent": layer("high", 0.0),
    }


def forecast(asked: dict[str, str], issued: datetime) -> dict[str, object]:
    """The document for a request. Raises ValueError with what is wrong."""
    latitude, longitude, height = (float(asked[name]) for name in ("latitude_deg", "longitude_deg", "height_m"))
    first = datetime.fromisoformat(asked["from"]).astimezone(UTC)
    hours = int(asked["hours"])
    if not (abs(latitude) <= 90 and abs(longitude) <= 180 and 1 <= hours <= MOST_HOURS):
        raise ValueError("latitude, longitude or hours out of range")
    return {
        "source": "Stand-in service, invented weather",
        "issued": issued.strftime("%Y-%m-%dT%H:%MZ"),
        "hours": [weather_at(latitude, longitude, height, first + timedelta(hours=hour)) for hour in range(hours)],
    }


class Handler(BaseHTTPRequestHandler):
    """GET / with the query; GET /health."""

    def do_GET(self) -> None:
        parts = urlsplit(self.path)
        if parts.path == "/health":
            self._say(200, {"ok": True})
            return
        try:
            asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
            self._say(200, forecast(asked, datetime.now(UTC)))
        except (KeyError, ValueError, OverflowError) as wrong:
            self._say(422, {"wrong": str(wrong)})

    def _say(self, status: int, document: object) -> None:
        body = json.dumps(document).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
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
