"""What one sees turning round at a spot: horizon profile, paths of targets, Sun and Moon, and where the pole is."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through
from widedusk.core.night.windows import STATES, Night, strip_span, track
from widedusk.core.pole.sight import PoleMark, pole_mark
from widedusk.core.pole.tolerance import METHODS
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import altaz, apparent_altitude, pressure_at
from widedusk.core.sky.places import moon_place, sun_place
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Quantity, Verdict, Working, joined

PATH_STEP_MIN = 5
BODY_STEP_MIN = 15
NEAR_DEG = 2.0  # the pole needs this much room above the horizon profile to be found with ease


@dataclass(frozen=True)
class PathPoint:
    azimuth_deg: float
    altitude_deg: float  # apparent
    clock: str  # local, on full hours only
    state: str


@dataclass(frozen=True)
class SkyPath:
    name: str
    points: tuple[PathPoint, ...]


@dataclass(frozen=True)
class Panorama:
    """Angles in degrees; the horizon profile every degree of azimuth from 0 to 360."""

    profile: list[float]
    paths: tuple[SkyPath, ...]
    sun: SkyPath
    moon: SkyPath
    pole: PoleMark
    verdict: Verdict


def _on_the_hour(spot: Spot, mjd: float, step_min: int) -> str:
    """ "21:00" at the sample nearest to a full hour of the local clock, else nothing."""
    local = spot.local(mjd)
    past = local.minute
    if past < step_min / 2:
        return f"{local:%H}:00"
    return f"{(local.hour + 1) % 24:02d}:00" if 60 - past <= step_min / 2 else ""


def _path(spot: Spot, name: str, mjd: Floats, azimuth: Floats, altitude: Floats, states: Sequence[str], step_min: int) -> SkyPath:
    """Samples above the horizon; a gap in the list of minutes shows as a jump, which the drawing breaks."""
    points = [
        PathPoint(
            round(float(np.degrees(azimuth[i])), 1),
            round(float(np.degrees(altitude[i])), 1),
            _on_the_hour(spot, float(mjd[i]), step_min),
            states[i],
        )
        for i in range(mjd.size)
        if altitude[i] > 0
    ]
    return SkyPath(name, tuple(points))


def _body(night: Night, name: str, ra: Floats, dec: Floats, mjd: Floats) -> SkyPath:
    geometric, azimuth = altaz(ra, dec, mjd, night.spot.observer)
    altitude = apparent_altitude(geometric, pressure_at(night.spot.height_m))
    return _path(night.spot, name, mjd, azimuth, altitude, [""] * mjd.size, BODY_STEP_MIN)


def pole_sight(spot: Spot) -> Verdict:
    """Whether the pole can be seen from here, and what to do when not."""
    mark = pole_mark(spot)
    side = "south" if spot.observer.south else "north"
    advice = ""
    level: Level = "go"
    if mark.hidden:
        level, sentence = "stop", mark.hidden
        blind = [one.name[0].lower() + one.name[1:] for one in reversed(METHODS) if not one.needs_pole]
        advice = f"{joined(blind).capitalize()} do without it; or stand where the pole is free."
    elif mark.free_deg < NEAR_DEG:
        level, sentence = "care", f"The {side} pole stands only {mark.free_deg:.1f}° above the horizon profile of {spot.name}."
        advice = "Step away from what stands there before you set up the legs."
    else:
        sentence = (
            f"The {side} pole is in view from {spot.name}, {mark.altitude_deg:.0f}° up and {mark.free_deg:.0f}° above "
            "the horizon profile."
        )
    working = Working(
        "pole",
        "Altitude of the pole",
        "h = |φ|, then refraction added",
        (
            Quantity("Latitude", spot.latitude_deg, "°", "φ", 4),
            Quantity("Horizon profile in that direction", mark.horizon_deg, "°"),
        ),
        Quantity("Pole", mark.altitude_deg, "°", "h", 2),
        "Definition of astronomical latitude; refraction Bennett 1982, J. Navigation 35, 255",
        "definition",
    )
    figures = (Quantity("Pole", mark.altitude_deg, "°", working="pole"), Quantity("Horizon profile there", mark.horizon_deg, "°"))
    caution = "Walk the ground in daylight: wires, holes and dead branches do not show at night."
    return Verdict(
        "Pole in sight",
        level,
        sentence,
        "what stands in the way" if level != "go" else "nothing",
        advice,
        figures,
        workings=(working,),
        caution=caution,
    )


def panorama(night: Night, targets: Sequence[Target], choices: Choices, through: Through | None = None) -> Panorama:
    """Everything to draw for one spot and night. Raises InvalidInput for what cannot be right."""
    spot = night.spot
    first, last = strip_span(night)
    minutes = np.arange(first, last + 1, PATH_STEP_MIN)
    paths = []
    for target in targets:
        path = track(night, target, choices, through)
        states = [STATES[code] for code in path.state[minutes]]
        paths.append(
            _path(spot, target.name, night.mjd[minutes], path.azimuth[minutes], path.altitude[minutes], states, PATH_STEP_MIN)
        )
    whole = night.mjd[::BODY_STEP_MIN]
    sun, moon = sun_place(spot.observer, whole), moon_place(spot.observer, whole)
    turn = np.radians(np.arange(361.0))
    return Panorama(
        np.round(np.degrees(spot.horizon.altitude_at(turn)), 2).tolist(),
        tuple(paths),
        _body(night, "Sun", sun.ra, sun.dec, whole),
        _body(night, "Moon", moon.ra, moon.dec, whole),
        pole_mark(spot),
        pole_sight(spot),
    )
