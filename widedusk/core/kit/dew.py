"""Dew point, the hour the front element reaches it, and what a heater has to make up for."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.sky.time import MINUTE, Floats

DewSchool = Literal["heater", "hood", "warmers"]
Surface = Literal["water", "ice"]
# WMO Guide to Instruments and Methods of Observation (WMO-No. 8), after Sonntag 1990:
# over water -45 to 60 °C, over ice -65 to 0 °C.
MAGNUS_WATER, MAGNUS_ICE = (17.62, 243.12), (22.46, 272.62)
# How far a lens under a clear sky sits below the air; 1 to 4 °C from memory, about half of it under a hood.
BARE_BELOW_AIR_C, HOODED_BELOW_AIR_C = 2.5, 1.25
STEFAN_BOLTZMANN = 5.670374e-8  # W m⁻² K⁻⁴, CODATA 2018
ZERO_C = 273.15
STRAP_SHARE = 0.2  # of a strap's heat that reaches the glass: our estimate, no source
ABOVE_AIR_C = 1.0  # how warm a heater should hold the glass: common practice


@dataclass(frozen=True)
class Weather:
    """Typed or forecast: at sunset, and the coldest before sunrise."""

    evening_c: float
    low_c: float
    humidity_percent: float  # at sunset
    wind_m_s: float = 0.0

    def __post_init__(self) -> None:
        checks = Checks()
        checks.within("air_evening_c", self.evening_c, -45, 50, "°C")
        checks.within("air_low_c", self.low_c, -45, 50, "°C")
        checks.within("humidity_percent", self.humidity_percent, 1, 100, "%")
        checks.within("wind_m_s", self.wind_m_s, 0, 40, "m/s")
        if not checks.faults and self.low_c > self.evening_c:
            checks.fault("air_low_c", self.low_c, f"The low of the night may not lie above the evening's {self.evening_c:g} °C.")
        checks.done()

    def air_c(self, share: Floats | float) -> Floats:
        """Air temperature when this share of the night from sunset to sunrise is over; falls evenly."""
        return np.asarray(self.evening_c + (self.low_c - self.evening_c) * np.clip(share, 0.0, 1.0))


def dew_point_c(air_c: Floats | float, humidity_percent: Floats | float, frost_air: Surface = "water") -> Floats:
    """Temperature at which glass fogs, °C: the dew point, or below 0 °C the frost point.

    Magnus form: g = ln(RH/100) + b T / (c + T), Td = c g / (b - g), with b and c over water, and over ice where Td < 0.
    In air below freezing weather services mean humidity over water, the default; ASHRAE means it over ice.
    """
    air = np.asarray(air_c, dtype=float)
    iced = (air < 0.0) & (frost_air == "ice")
    b, c = (np.where(iced, ice, water) for water, ice in zip(MAGNUS_WATER, MAGNUS_ICE, strict=True))
    gamma = np.log(np.asarray(humidity_percent) / 100.0) + b * air / (c + air)
    b, c = (np.where(gamma < 0.0, ice, water) for water, ice in zip(MAGNUS_WATER, MAGNUS_ICE, strict=True))
    return np.asarray(c * gamma / (b - gamma))


def humidity_percent(air_c: Floats | float, point_c: Floats | float) -> Floats:
    """Relative humidity over water of air with a dew point, or below 0 °C a frost point; the inverse of dew_point_c, at most 100.

    The water in air whose frost point is told is that over ice, as services tell humidity it is over water.
    """
    air, point = np.asarray(air_c, dtype=float), np.asarray(point_c, dtype=float)
    b, c = (np.where(point < 0.0, ice, water) for water, ice in zip(MAGNUS_WATER, MAGNUS_ICE, strict=True))
    over, upon = MAGNUS_WATER
    return np.asarray(np.minimum(100.0 * np.exp(b * point / (c + point) - over * air / (upon + air)), 100.0))


def below_air_c(school: DewSchool) -> float:
    """How far the glass sits below the air; every school but a bare lens has a hood."""
    return HOODED_BELOW_AIR_C if school in {"heater", "hood", "warmers"} else BARE_BELOW_AIR_C


@dataclass(frozen=True)
class Air:
    """The air from set-up to sunrise, minute by minute, as forecast or typed. The one account of it that every page goes by."""

    begin_mjd: float  # set-up
    temperature_c: tuple[float, ...]
    point_c: tuple[float, ...] | None  # dew point, frost point below 0 °C; None where nobody told the humidity
    wind_m_s: float  # the most of the night
    forecast: bool  # hour by hour from a forecast, typed figures over it; else from typed figures alone

    def at_c(self, mjd: Floats) -> Floats:
        """Temperature; before and after it that of its ends."""
        return np.interp((mjd - self.begin_mjd) / MINUTE, np.arange(len(self.temperature_c)), self.temperature_c)

    def margin_c(self, below_c: float) -> Floats | None:
        """How far glass that sits below_c under the air stays above the dew point, minute by minute."""
        if self.point_c is None:
            return None
        return np.asarray(np.array(self.temperature_c) - below_c - np.array(self.point_c))

    def fogs_mjd(self, below_c: float) -> float | None:
        """When such glass first reaches the dew point; None when it stays clear, or nobody told the humidity."""
        margin = self.margin_c(below_c)
        if margin is None or margin.min() > 0.0:
            return None
        return self.begin_mjd + float(np.argmax(margin <= 0.0)) * MINUTE


def sky_loss_w_m2(air_c: float) -> float:
    """Net heat that glass at air temperature loses to a clear sky: e s (Ta⁴ - Ts⁴), Ts = 0.0552 Ta^1.5 (Swinbank 1963), e = 1."""
    air = air_c + ZERO_C
    sky = 0.0552 * air**1.5
    return float(STEFAN_BOLTZMANN * (air**4 - min(sky, air) ** 4))


def wind_loss_w_m2(wind_m_s: float) -> float:
    """Heat carried off by the air from glass held ABOVE_AIR_C warmer: (5.7 + 3.8 v) dT (McAdams 1954)."""
    return (5.7 + 3.8 * wind_m_s) * ABOVE_AIR_C


def heater_needed_w(front_mm: float, air_c: float, wind_m_s: float) -> float:
    """Electrical power that holds a front element above the dew point on a clear night. An estimate."""
    area = np.pi * (front_mm / 2000.0) ** 2
    return float((sky_loss_w_m2(air_c) + wind_loss_w_m2(wind_m_s)) * area / STRAP_SHARE)
