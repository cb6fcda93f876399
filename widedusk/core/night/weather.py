"""A forecast hour by hour, and what it does to a night: dew, wind, cloud."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit.dew import Air, Weather, below_air_c, dew_point_c, humidity_percent
from widedusk.core.night.windows import Night, setup_minute, strip_span, sun_down
from widedusk.core.sky.time import MINUTE, Floats, day_words, mjd_from_datetime
from widedusk.core.verdict import Level, Quantity, Verdict, Working

MOST_HOURS = 400
CLOUDY_PERCENT = 30.0  # more than this, and frames are lost: common practice, no source
WINDY_M_S, GUSTY_M_S = 8.0, 11.0  # of wind, of gusts: they shake a light tripod. Common practice, no source
# What each hour tells, with the ends that can be right.
FIELDS: dict[str, tuple[float, float, str]] = {
    "temperature_c": (-60.0, 55.0, "°C"),
    "humidity_percent": (1.0, 100.0, "%"),
    "wind_m_s": (0.0, 90.0, "m/s"),
    "cloud_low_percent": (0.0, 100.0, "%"),
    "cloud_middle_percent": (0.0, 100.0, "%"),
    "cloud_high_percent": (0.0, 100.0, "%"),
}
# What some services tell as well.
OPTIONAL: dict[str, tuple[float, float, str]] = {
    "gust_m_s": (0.0, 120.0, "m/s"),
    "rain_mm_h": (0.0, 500.0, "mm an hour"),
    "visibility_m": (0.0, 1e6, "m"),
}
WET_MM_H = 0.1  # from which on the sky is closed and the camera wet. Our own


@dataclass(frozen=True)
class Forecast:
    """Hours in order; arrays of one shape. Cloud is the share of the sky covered by each layer."""

    issued: datetime | None  # where the service says so
    source: str  # who says so
    mjd: Floats
    temperature_c: Floats
    humidity_percent: Floats
    wind_m_s: Floats
    cloud_low_percent: Floats
    cloud_middle_percent: Floats
    cloud_high_percent: Floats
    gust_m_s: Floats | None = None
    rain_mm_h: Floats | None = None
    visibility_m: Floats | None = None
    missing: tuple[str, ...] = ()  # CF standard names of what the service might tell and does not

    def at(self, name: str, mjd: Floats) -> Floats:
        """Straight lines between the hours."""
        return np.asarray(np.interp(mjd, self.mjd, getattr(self, name)))

    def cloud_percent(self, mjd: Floats) -> Floats:
        """All layers together, as if they lay over one another at random: 1 - (1-a)(1-b)(1-c)."""
        layers = (self.at(f"cloud_{layer}_percent", mjd) / 100.0 for layer in ("low", "middle", "high"))
        open_sky = np.ones_like(mjd)
        for layer in layers:
            open_sky = open_sky * (1.0 - layer)
        return np.asarray(100.0 * (1.0 - open_sky))


def _refuse(what: str, value: object, message: str) -> InvalidInput:
    return InvalidInput([Fault(f"forecast.{what}" if what else "forecast", value, message)])


def _moment(given: object, path: str) -> datetime:
    try:
        moment = datetime.fromisoformat(str(given))
    except ValueError as caught:
        raise _refuse(path, str(given)[:60], "The forecast tells no readable time here.") from caught
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


def _number(hour: Mapping[str, Any], name: str, path: str) -> float:
    low, high, unit = (FIELDS | OPTIONAL)[name]
    value = hour.get(name)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise _refuse(f"{path}.{name}", value if value is None else str(value)[:60], "The forecast has no number here.")
    if not low <= value <= high:
        raise _refuse(
            f"{path}.{name}", value, f"The forecast says {value:g} {unit}, which cannot be; it should be {low:g} to {high:g}."
        )
    return float(value)


def read_forecast(document: object) -> Forecast:
    """A forecast as it is kept, hour by hour (coverage.py makes it). Raises InvalidInput for anything that is not whole."""
    if not isinstance(document, Mapping) or not isinstance(document.get("hours"), list) or not document["hours"]:
        raise _refuse("", None, "The answer of the forecast service holds no hours.")
    hours = document["hours"]
    if len(hours) > MOST_HOURS or not all(isinstance(one, Mapping) for one in hours):
        raise _refuse("hours", len(hours), f"The forecast should hold at most {MOST_HOURS} hours, each with its figures.")
    mjd = np.array([mjd_from_datetime(_moment(one.get("time"), f"hours.{place}.time")) for place, one in enumerate(hours)])
    if np.any(np.diff(mjd) <= 0):
        raise _refuse("hours", None, "The hours of the forecast do not stand in order.")
    columns = {name: np.array([_number(one, name, f"hours.{place}") for place, one in enumerate(hours)]) for name in FIELDS}
    for name in OPTIONAL:
        if name in hours[0]:
            columns[name] = np.array([_number(one, name, f"hours.{place}") for place, one in enumerate(hours)])
    issued = _moment(document["issued"], "issued") if document.get("issued") else None
    missing = tuple(str(one)[:80] for one in document.get("missing") or ())
    return Forecast(issued, str(document.get("source") or "")[:120], mjd, missing=missing, **columns)


@dataclass(frozen=True)
class StripWeather:
    """The forecast along the dusk strip, minute by minute; empty outside what the forecast covers."""

    cloud_percent: list[int]
    temperature_c: list[float]
    wind_m_s: list[float]
    glass_above_dew_c: list[float]  # front element, after the chosen school, above the dew point
    verdict: Verdict


@dataclass(frozen=True)
class Cover:
    """A night's share of a forecast."""

    forecast: Forecast
    night: Night

    @property
    def whole(self) -> bool:
        """Whether it reaches from sunset to sunrise."""
        first, last = sun_down(self.night)
        return bool(
            self.forecast.mjd[0] <= self.night.mjd[first] + 1 / 24 and self.forecast.mjd[-1] >= self.night.mjd[last] - 1 / 24
        )


def weather_of(cover: Cover) -> Weather | None:
    """The night in the few figures that dew and packing ask for, or None where the forecast does not reach."""
    if not cover.whole:
        return None
    first, last = sun_down(cover.night)
    mjd = cover.night.mjd[first : last + 1]
    air = cover.forecast.at("temperature_c", mjd)
    evening, low = float(air[0]), float(min(air.min(), air[0]))
    humidity = float(cover.forecast.at("humidity_percent", mjd)[0])
    return Weather(
        round(min(max(evening, -45), 50), 1),
        round(min(max(low, -45), 50), 1),
        round(humidity),
        round(min(float(cover.forecast.at("wind_m_s", mjd).max()), 40.0), 1),
    )


def with_forecast(choices: Choices, weather: Weather | None) -> Choices:
    """Choices in which the forecast stands where nothing was typed; what was typed wins."""
    if weather is None:
        return choices
    typed_air = choices.air_evening_c is not None or choices.air_low_c is not None
    return replace(
        choices,
        air_evening_c=choices.air_evening_c if typed_air else weather.evening_c,
        air_low_c=choices.air_low_c if typed_air else weather.low_c,
        humidity_percent=weather.humidity_percent if choices.humidity_percent is None else choices.humidity_percent,
        wind_m_s=weather.wind_m_s if choices.wind_m_s is None else choices.wind_m_s,
    )


def typed_over(cover: Cover, choices: Choices) -> Cover:
    """The forecast with a person's own figures in its place: air falling evenly from sunset to sunrise with its water, wind.

    Cloud stays as forecast: nobody types it.
    """
    forecast, typed = cover.forecast, choices.weather()
    if typed is not None:
        first, last = sun_down(cover.night)
        begins, ends = cover.night.mjd[first], cover.night.mjd[last]
        air = typed.air_c((forecast.mjd - begins) / (ends - begins))
        forecast = replace(forecast, temperature_c=air)
        if choices.humidity_percent is not None:
            point = dew_point_c(typed.evening_c, typed.humidity_percent, "water")
            forecast = replace(forecast, humidity_percent=humidity_percent(air, point))
    if choices.wind_m_s is not None:
        forecast = replace(forecast, wind_m_s=np.full(forecast.mjd.shape, choices.wind_m_s))
    return replace(cover, forecast=forecast)


def air_of(night: Night, forecast: Forecast | None, choices: Choices) -> Air | None:
    """The air of a night from set-up to sunrise: hour by hour where a forecast reaches, else as typed, else None.

    forecast: with typed figures already in their place (typed_over).
    """
    first, last = sun_down(night)
    begin = setup_minute(night, choices)
    mjd = begin + np.arange(max(round((float(night.mjd[last]) - begin) / MINUTE), 1) + 1.0) * MINUTE
    if forecast is not None and Cover(forecast, night).whole:
        air = forecast.at("temperature_c", mjd)
        point = dew_point_c(air, forecast.at("humidity_percent", mjd))
        return Air(begin, tuple(air.tolist()), tuple(point.tolist()), min(float(forecast.at("wind_m_s", mjd).max()), 40.0), True)
    typed = choices.weather()
    if typed is None:
        return None
    air = typed.air_c((mjd - night.mjd[first]) / (night.mjd[last] - night.mjd[first]))
    told = choices.humidity_percent is not None
    constant = float(dew_point_c(typed.evening_c, typed.humidity_percent))
    return Air(begin, tuple(air.tolist()), (constant,) * len(mjd) if told else None, typed.wind_m_s, False)


def _glass_above_dew(cover: Cover, mjd: Floats, choices: Choices) -> Floats:
    air = cover.forecast.at("temperature_c", mjd)
    return np.asarray(air - below_air_c(choices.dew_school) - dew_point_c(air, cover.forecast.at("humidity_percent", mjd)))


def issued_words(issued: datetime | None) -> str:
    """When a forecast was issued, in UTC; empty where nobody says."""
    return f"{day_words(issued)}, {issued:%H:%M} UTC" if issued else ""


def strip_weather(cover: Cover, choices: Choices) -> StripWeather | None:
    """Cloud, air, wind and dew along the strip, with the sentence that sums them up; None where the forecast does not reach."""
    if not cover.whole:
        return None
    first, last = strip_span(cover.night)
    mjd = cover.night.mjd[first : last + 1]
    cloud, wind = cover.forecast.cloud_percent(mjd), cover.forecast.at("wind_m_s", mjd)
    margin = _glass_above_dew(cover, mjd, choices)
    return StripWeather(
        np.round(cloud).astype(int).tolist(),
        np.round(cover.forecast.at("temperature_c", mjd), 1).tolist(),
        np.round(wind, 1).tolist(),
        np.round(margin, 1).tolist(),
        _verdict(cover, choices),
    )


def clear_percent(cover: Cover) -> float | None:
    """Share of the time from sunset to sunrise that is clear; None where the forecast does not reach."""
    first, last = sun_down(cover.night)
    return _clear_percent(cover.forecast.cloud_percent(cover.night.mjd[first : last + 1])) if cover.whole else None


def _clear_percent(cloud: Floats) -> float:
    return float(np.mean(cloud <= CLOUDY_PERCENT) * 100)


def _verdict(cover: Cover, choices: Choices) -> Verdict:
    """The night from sunset to sunrise in one sentence."""
    spot = cover.night.spot
    air = air_of(cover.night, cover.forecast, choices)
    wet = air.fogs_mjd(below_air_c(choices.dew_school)) if air else None
    forecast, (first, last) = cover.forecast, sun_down(cover.night)
    night = cover.night.mjd[first : last + 1]
    cloud, wind = forecast.cloud_percent(night), forecast.at("wind_m_s", night)
    clear = _clear_percent(cloud)
    gusts = forecast.gust_m_s is not None
    gusty = float(forecast.at("gust_m_s", night).max()) if gusts else float(wind.max())
    rain = np.flatnonzero(forecast.at("rain_mm_h", night) >= WET_MM_H) if forecast.rain_mm_h is not None else np.zeros(0, dtype=int)
    windy = (float(wind.max()) if gusts else gusty) > WINDY_M_S or gusty > GUSTY_M_S
    level: Level = "stop" if clear < 20 or rain.size else "care" if clear < 80 or windy or wet is not None else "go"
    said = [
        "clear all night" if clear > 99 else "cloudy all night" if clear < 1 else f"clear for {clear:.0f} % of the night",
        f"wind up to {float(wind.max()):.0f} m/s" + (f" with gusts of {gusty:.0f}" if gusts else ""),
        f"dew from {spot.clock(wet)}" if wet is not None else "no dew",
        *([f"rain from {spot.clock(float(night[rain[0]]))}"] if rain.size else []),
    ]
    working = Working(
        "forecast",
        "Forecast along the night",
        "cloud = 1 − Π(1 − layer); dew where air − cooling of the glass ≤ dew point",
        (
            Quantity("Mean cloud", float(cloud.mean()), "%", decimals=0),
            Quantity("Counts as clear up to", CLOUDY_PERCENT, "%", decimals=0),
            Quantity("Glass below the air", below_air_c(choices.dew_school), "°C", decimals=2),
            Quantity("Source", text=cover.forecast.source or "not told"),
            Quantity("Issued", text=issued_words(cover.forecast.issued) or "not told"),
        ),
        Quantity("Clear", clear, "%", decimals=0),
        "Hourly forecast, straight lines between the hours; dew point WMO-No. 8; layers overlap at random (common practice)",
        "common practice",
    )
    sentence = f"{said[0][0].upper()}{', '.join(said)[1:]}."
    binding = "rain" if rain.size else "cloud" if clear < 80 else "wind" if windy else "dew" if wet is not None else "nothing"
    advice = "Have the heater running before then." if wet is not None and choices.dew_school == "heater" else ""
    if rain.size:
        advice = f"Cover or pack up before {spot.clock(float(night[rain[0]]))}. {advice}".strip()
    return Verdict(
        "Weather",
        level,
        sentence,
        binding,
        advice,
        (
            Quantity("Clear", clear, "%", decimals=0, working="forecast"),
            Quantity("Gusts up to" if gusts else "Wind up to", gusty, "m/s", decimals=0),
        ),
        workings=(working,),
    )
