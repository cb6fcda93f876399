"""Where the axis points, out of how fast stars drift in declination.

The mount turns about its own axis M; a star s, lifted by the air, goes its own way. In the camera it drifts with

    d = (ds/dt + w M x s) . n = ds/dt . n + w M . (s x n)        n: towards the celestial pole, at the star

which is linear in where the axis stands beside the point A it should aim at:

    M = A + a E + b U        E: east, U: square to it and to A, upward

so two stars or more give a and b by weighted least squares, with their covariance. Without air ds/dt is -w P x s and the
drift w (M - P) x s; the air moves a star by itself, and an axis on the refracted pole is not one on the true. A star near the
meridian weighs on a, one near the east or west on b; stars that all weigh on the same one leave the other open, and that is
told instead of solved.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.pole.axis import ARCMIN, AxisError, aim, error_frame
from widedusk.core.sky.horizon import apparent_altitude, pressure_at, refraction_from_apparent
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_RAD_S, direction, pole_direction

ARCSEC_PER_MIN = np.radians(1.0 / 3600.0) / 60.0  # in radians a second
LEAST_SPREAD = 0.15  # smallest over largest weight of the two errors; below it one of them is guesswork. Our own


@dataclass(frozen=True)
class Watched:
    """One star watched through the rig: where it stood, and how it drifted in declination, north positive."""

    altitude_deg: float
    azimuth_deg: float
    drift_arcsec_min: float
    sigma_arcsec_min: float = 0.1  # one standard deviation of the drift


@dataclass(frozen=True)
class WatchPlace:
    """Where to look for a star, for how long, and what it tells."""

    tells: str
    azimuth_deg: float
    altitude_deg: float
    minutes: float  # until an error as large as is tolerated has moved a star by two pixels
    words: str


@dataclass(frozen=True)
class Entry:
    """One star as a person notes it: drift in px or arcseconds, towards north or south, over some minutes."""

    altitude_deg: float
    azimuth_deg: float
    amount: float
    unit: Literal["px", "arcsec"]
    towards: Literal["north", "south"]
    minutes: float


WATCHED_MIN = 0.5, 120.0  # a star is watched so long at least and at most, however good the axis has to be. Our own
LOWEST_WATCH_DEG, READING_PX = 20.0, 1.0


def watch_places(latitude_deg: float, tolerance_arcmin: float, scale_arcsec_px: float) -> tuple[WatchPlace, WatchPlace]:
    """Where two stars tell both errors: one on the meridian near the equator, one low in the east or west."""
    south = latitude_deg < 0
    moves = tolerance_arcmin * ARCMIN * SIDEREAL_RATE_RAD_S / ARCSEC_PER_MIN  # arcseconds a minute
    minutes = float(np.clip(2.0 * scale_arcsec_px / max(moves, 1e-9), *WATCHED_MIN))
    high = min(90.0 - abs(latitude_deg), 75.0)
    facing = "north" if south else "south"
    return (
        WatchPlace("azimuth", 0.0 if south else 180.0, high, minutes, f"A star due {facing}, about {high:.0f}° up, tells azimuth."),
        WatchPlace(
            "altitude",
            90.0,
            LOWEST_WATCH_DEG + 5,
            minutes,
            f"A star due east or west, {LOWEST_WATCH_DEG:.0f}° to 35° up, tells altitude.",
        ),
    )


def watched(entries: Sequence[Entry], scale_arcsec_px: float) -> tuple[Watched, ...]:
    """Entries as drift rates; each was read to about a pixel. Raises InvalidInput."""
    checks = Checks()
    for place, one in enumerate(entries):
        checks.within(f"stars.{place}.minutes", one.minutes, 0.5, 240, "min")
        checks.within(f"stars.{place}.amount", one.amount, 0, 5000)
    checks.done()
    rates = []
    for one in entries:
        arcsec = one.amount * (scale_arcsec_px if one.unit == "px" else 1.0)
        sign = 1.0 if one.towards == "north" else -1.0
        reading = READING_PX * scale_arcsec_px / one.minutes
        rates.append(Watched(one.altitude_deg, one.azimuth_deg, sign * arcsec / one.minutes, reading))
    return tuple(rates)


STEP_S = 30.0  # on which the seen place of a star is taken to either side, for its rate


def _own_motion_rad_s(observer: Observer, altitude: Floats, azimuth: Floats) -> Floats:
    """How a star seen at a place moves through the air's picture of the sky, east-north-up, radians a second; shape (n, 3)."""
    pressure = pressure_at(observer.height_m)
    true = direction(altitude - refraction_from_apparent(altitude, pressure), azimuth)
    pole = pole_direction(observer.latitude_rad)

    def seen(seconds: float) -> Floats:
        turn = -SIDEREAL_RATE_RAD_S * seconds
        turned = true + np.sin(turn) * np.cross(pole, true) + (1.0 - np.cos(turn)) * np.cross(pole, np.cross(pole, true))
        lifted = apparent_altitude(np.arcsin(np.clip(turned[:, 2], -1.0, 1.0)), pressure)
        return direction(lifted, np.arctan2(turned[:, 0], turned[:, 1]))

    return (seen(STEP_S) - seen(-STEP_S)) / (2.0 * STEP_S)


def axis_error(observer: Observer, pole: PoleKind, watched: Sequence[Watched]) -> AxisError:
    """Errors of the axis against the pole it should aim at, by weighted least squares; the air is mean air at the height.

    Raises InvalidInput naming what is wrong or missing.
    """
    checks = Checks()
    for place, one in enumerate(watched):
        checks.within(f"stars.{place}.altitude_deg", one.altitude_deg, 5, 89.5, "°")
        checks.within(f"stars.{place}.azimuth_deg", one.azimuth_deg, 0, 360, "°")
        checks.within(f"stars.{place}.drift_arcsec_min", one.drift_arcsec_min, -200, 200, "″ a minute")
        checks.within(f"stars.{place}.sigma_arcsec_min", one.sigma_arcsec_min, 0.001, 50, "″ a minute")
    checks.done()
    if len(watched) < 2:
        raise InvalidInput([Fault("stars", len(watched), "Watch two stars: one near the meridian, one low in the east or west.")])
    aim_altitude, aim_azimuth = aim(observer, pole)
    up, east = error_frame(aim_altitude, aim_azimuth)
    # The drift tells of the northern end; in the south the end that points at the sky is the other one.
    side = -1.0 if observer.south else 1.0
    altitude, azimuth = (np.radians([getattr(one, name) for one in watched]) for name in ("altitude_deg", "azimuth_deg"))
    star, towards = direction(altitude, azimuth), pole_direction(observer.latitude_rad)
    north = towards - (star @ towards)[:, None] * star
    north /= np.linalg.norm(north, axis=1)[:, None]
    lever = SIDEREAL_RATE_RAD_S * np.cross(star, north)
    sigma = np.array([one.sigma_arcsec_min for one in watched]) * ARCSEC_PER_MIN
    on_the_pole = np.sum(_own_motion_rad_s(observer, altitude, azimuth) * north, axis=1)
    on_the_pole += side * (lever @ direction(aim_altitude, aim_azimuth))
    drift = np.array([one.drift_arcsec_min for one in watched]) * ARCSEC_PER_MIN - on_the_pole
    design = side * np.stack([lever @ east, lever @ up], axis=1) / sigma[:, None]
    strengths = np.linalg.svd(design, compute_uv=False)
    if strengths[1] < LEAST_SPREAD * strengths[0]:
        missing = "low in the east or west" if np.abs(design[:, 0]).sum() > np.abs(design[:, 1]).sum() else "near the meridian"
        raise InvalidInput([Fault("stars", len(watched), f"These stars tell one error only; watch another {missing}.")])
    found, *_ = np.linalg.lstsq(design, drift / sigma, rcond=None)
    spread = np.sqrt(np.diag(np.linalg.inv(design.T @ design)))
    a, b = found / ARCMIN
    return AxisError(float(b), float(a), float(spread[1] / ARCMIN), float(spread[0] / ARCMIN))
