"""When a target is usable: dark, high enough, clear of what stands in the way, Moon bearable.

The night is sampled every minute from noon to noon; everything is an array over those minutes.
"""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from widedusk.core.choices import DARK_SUN_DEG, Choices, minutes_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.response import Through, moon_limit_mag
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.brightness import combined, dark_sky, moonlight, twilight
from widedusk.core.sky.horizon import SUN_RISE_ALTITUDE, altaz, apparent_altitude, crossings, pressure_at
from widedusk.core.sky.places import moon_phase_angle, moon_place, separation, star_place, sun_place
from widedusk.core.sky.time import MINUTE, Floats, mjd_from_datetime, solar_midnight

State = Literal["day", "twilight", "low", "blocked", "moonlit", "usable"]
STATES: tuple[State, ...] = ("day", "twilight", "low", "blocked", "moonlit", "usable")
MARGIN_MIN = 25  # daylight shown before sunset and after sunrise
Run = tuple[int, int]  # first and last minute of a stretch, inclusive


@dataclass(frozen=True)
class Night:
    """Sun and Moon over one night at one spot; arrays of shape (1441,), radians."""

    spot: Spot
    evening: date
    mjd: Floats
    sun_altitude: Floats  # geometric
    moon_altitude: Floats  # geometric, topocentric
    moon_ra: Floats
    moon_dec: Floats
    moon_phase: Floats  # phase angle, 0 full

    @property
    def lit_fraction(self) -> float:
        """Lit share of the Moon at midnight, 0..1."""
        return float((1.0 + np.cos(self.moon_phase[len(self.mjd) // 2])) / 2.0)

    def sun_crossing(self, altitude_rad: float) -> tuple[float | None, float | None]:
        """MJD at which the Sun sinks below and climbs above an altitude this night; None where it does not."""
        up, down = crossings(self.mjd, self.sun_altitude, altitude_rad)
        return (down[0] if down else None), (up[-1] if up else None)

    def sunset_and_sunrise(self) -> tuple[float | None, float | None]:
        return self.sun_crossing(SUN_RISE_ALTITUDE)


@dataclass(frozen=True)
class Track:
    """A target through one night; arrays of shape (1441,)."""

    altitude: Floats  # apparent (refracted), radians
    azimuth: Floats
    obstruction: Floats  # altitude of the spot's horizon profile in the target's direction, radians
    sky_mag: Floats  # V mag/arcsec² at the target
    moon_adds_mag: Floats  # how much of it is the Moon's doing
    moon_distance: Floats  # radians
    moon_limit_mag: float  # how much it may be: what is allowed, and what the filter in use gains
    state: NDArray[np.int8]  # index into STATES
    runs: tuple[Run, ...]  # usable stretches in order

    @property
    def best_run(self) -> Run | None:
        """The longest usable stretch."""
        return max(self.runs, key=lambda run: run[1] - run[0], default=None)

    def run_under(self, moon_limit_mag: float) -> Run | None:
        """The longest stretch that would be usable if the Moon might add so much."""
        clear = (self.state == STATES.index("usable")) | (self.state == STATES.index("moonlit"))
        return max(runs_where(clear & (self.moon_adds_mag <= moon_limit_mag)), key=lambda run: run[1] - run[0], default=None)

    @property
    def usable_minutes(self) -> int:
        return sum(last - first for first, last in self.runs)


def night_at(spot: Spot, evening: date) -> Night:
    """Sun and Moon for the night that begins on `evening`. Raises InvalidInput for years out of reach."""
    mjd: Floats = solar_midnight(evening, spot.observer.longitude_rad) + np.arange(-720.0, 721.0) * MINUTE
    sun, moon = sun_place(spot.observer, mjd), moon_place(spot.observer, mjd)
    sun_altitude, _ = altaz(sun.ra, sun.dec, mjd, spot.observer)
    moon_altitude, _ = altaz(moon.ra, moon.dec, mjd, spot.observer)
    return Night(spot, evening, mjd, sun_altitude, moon_altitude, moon.ra, moon.dec, moon_phase_angle(mjd))


def sun_down(night: Night) -> Run:
    """Minutes from sunset to sunrise; noon to noon where the Sun does not do both."""
    down, up = night.sunset_and_sunrise()
    if down is None or up is None or up < down:
        return 0, len(night.mjd) - 1
    first, last = (round((moment - night.mjd[0]) / MINUTE) for moment in (down, up))
    return first, last


def strip_span(night: Night) -> Run:
    """Minutes from a little before sunset to a little after sunrise; noon to noon where the Sun does not do both."""
    first, last = sun_down(night)
    return max(first - MARGIN_MIN, 0), min(last + MARGIN_MIN, len(night.mjd) - 1)


def setup_mjd(night: Night, choices: Choices) -> float:
    """When the axis is aligned: the typed local time, else 45 minutes before it is dark, else at sunset or midnight."""
    minutes = choices.setup_minutes()
    if minutes is not None:
        return _on_the_clock(night, minutes)
    dark, _ = night.sun_crossing(np.radians(DARK_SUN_DEG[choices.darkness]))
    if dark is not None:
        return dark - 45 * MINUTE
    sunset, _ = night.sunset_and_sunrise()
    return sunset if sunset is not None else float(night.mjd[len(night.mjd) // 2])


def clock_mjd(night: Night, clock: str, default: float | None = None) -> float:
    """The moment of a night at which local clocks show a time, like 23:30; the default, else the middle of the night, for none.

    Raises InvalidInput for what is no time of day.
    """
    if not clock:
        return default if default is not None else float(night.mjd[len(night.mjd) // 2])
    minutes = minutes_of(clock)
    if minutes is None:
        raise InvalidInput([Fault("at", clock, f"{clock!r} is no time of day; write it like 23:30.")])
    return _on_the_clock(night, minutes)


def _on_the_clock(night: Night, minutes: int) -> float:
    """Minutes after local midnight, those before noon on the day after the evening."""
    day = night.evening + timedelta(days=1 if minutes < 12 * 60 else 0)
    return mjd_from_datetime(datetime.combine(day, time(minutes // 60, minutes % 60), night.spot.zone))


def setup_minute(night: Night, choices: Choices) -> float:
    """The same to the whole minute: from here on loads draw and glass cools, and every clock of it reads alike."""
    return round(setup_mjd(night, choices) / MINUTE) * MINUTE


def runs_where(usable: NDArray[np.bool_]) -> tuple[Run, ...]:
    """Stretches of minutes that hold, each with its first and its last."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], usable, [False])).astype(np.int8)))
    return tuple((int(first), int(last) - 1) for first, last in zip(edges[::2], edges[1::2], strict=True))


def track(night: Night, target: Target, choices: Choices, through: Through | None = None) -> Track:
    """The target minute by minute: where it is, how bright the sky is there, and what it can be used for.

    through: what it is taken with; a filter that keeps the sky out bears more of the Moon.
    """
    spot, mjd = night.spot, night.mjd
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(mjd[len(mjd) // 2]))
    geometric, azimuth = altaz(ra, dec, mjd, spot.observer)
    altitude = apparent_altitude(geometric, pressure_at(spot.height_m))
    obstruction = spot.horizon.altitude_at(azimuth)
    distance = separation(ra, dec, night.moon_ra, night.moon_dec)

    moonless = combined(dark_sky(spot.sky_mag, altitude), twilight(night.sun_altitude))
    moon = moonlight(np.pi / 2 - altitude, np.pi / 2 - night.moon_altitude, distance, night.moon_phase)
    sky = combined(moonless, moon)
    moon_adds = moonless - sky

    # A later test wins over an earlier one, so the tests stand from the mildest reason to the strongest.
    state = np.full(mjd.shape, STATES.index("usable"), dtype=np.int8)
    limit = moon_limit_mag(through, target, choices.moon_limit_mag)
    state[moon_adds > limit] = STATES.index("moonlit")
    state[altitude < obstruction] = STATES.index("blocked")
    state[altitude < np.radians(choices.min_altitude_deg)] = STATES.index("low")
    state[night.sun_altitude > np.radians(DARK_SUN_DEG[choices.darkness])] = STATES.index("twilight")
    state[night.sun_altitude > SUN_RISE_ALTITUDE] = STATES.index("day")
    return Track(
        altitude, azimuth, obstruction, sky, moon_adds, distance, limit, state, runs_where(state == STATES.index("usable"))
    )


def mean_sky_mag(track_: Track, run: Run) -> float:
    """Sky over a stretch as one figure: fluxes are averaged, not magnitudes."""
    return float(-2.5 * np.log10(np.mean(10.0 ** (-0.4 * track_.sky_mag[run[0] : run[1] + 1]))))
