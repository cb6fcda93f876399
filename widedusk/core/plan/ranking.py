"""What suits tonight: the whole catalogue ranked for one rig, one spot and one night.

    unit vectors of all places (n, 3)  x  where the zenith points, every five minutes (3, t)  =  sine of altitude (n, t)

so that 13,000 objects over a night cost one matrix product. Direction, horizon profile and moonlight are only worked out
for the minutes in which a place is high enough at all.
"""

from dataclasses import dataclass
from typing import Literal

import erfa
import numpy as np
from numpy.typing import NDArray

from widedusk.core.catalogue.catalogue import Catalogue, Entry
from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.exposure.response import Through
from widedusk.core.framing.frame import share_of_frame
from widedusk.core.kit.frame import Frame, frame_of
from widedusk.core.kit.parts import Rig
from widedusk.core.night.windows import Night
from widedusk.core.scene import KINDS, Spot, Target
from widedusk.core.sky.brightness import combined, dark_sky, moonlight
from widedusk.core.sky.horizon import pressure_at, refraction_from_apparent
from widedusk.core.sky.places import separation, star_vectors, unit_vectors
from widedusk.core.sky.time import Floats, earth_rotation_angle
from widedusk.core.verdict import Quantity, Verdict, Working

Season = Literal["coming", "at its best", "ending", "off season"]
STEP_MIN = 5
MOON_EVERY = 3  # of the steps: the sky changes slowly
AZIMUTH_BINS = 1440
# Our own weighting, no published figures; the table shows what it is made of.
NIGHT_MIN = 150.0  # usable time counts as 1 - exp(-t / this): 63 % at 2.5 h, 95 % at 7.5 h
BEST_SHARE, SHARE_SPREAD = 0.6, 0.8  # of the frame; standard deviation of its natural logarithm
SHOWS_AT = 0.1  # contrast c with the sky counts as c / (c + this)
NARROW_ON_CONTINUUM = 0.3  # of the worth is left where a narrow filter meets light without lines
SEASON_H = 3.0  # from transit at midnight
NEIGHBOURS = 3
ONLY_WHEN_ASKED = ("constellation", "star")


@dataclass(frozen=True)
class Ranked:
    """One row: what there is, how it sits in the frame, and what the night gives it."""

    entry: Entry
    fills_percent: float  # of the frame, along the tighter side
    usable_min: int
    highest_deg: float
    sky_mag: float  # mean at the target while it is usable
    moon_adds_mag: float
    season: Season
    worth: float  # 0..100, our own weighting: see docs/formulas.md
    note: str
    neighbours: tuple[str, ...]
    verdict: Verdict  # how the worth came about


def sine_altitudes(directions: Floats, mjd: Floats, spot: Spot) -> NDArray[np.float32]:
    """Sine of the geometric altitude of n CIRS directions (n, 3) at t times, shape (n, t).

    Single precision: within 0.1 arcsec up to 80° and 10 arcsec up to 89.9°, in half the memory and a third of the time.
    """
    observer = spot.observer
    zenith = unit_vectors(earth_rotation_angle(mjd) + observer.longitude_rad, np.full(mjd.shape, observer.latitude_rad))
    return np.asarray(directions.astype(np.float32) @ zenith.T.astype(np.float32))


def _azimuths(ra: Floats, dec: Floats, mjd: Floats, spot: Spot) -> Floats:
    """Azimuths of single pairs of place and time; all of one shape."""
    angle = earth_rotation_angle(mjd) + spot.observer.longitude_rad - ra
    latitude = spot.observer.latitude_rad
    north = np.sin(dec) * np.cos(latitude) - np.cos(dec) * np.cos(angle) * np.sin(latitude)
    return np.asarray(np.arctan2(-np.cos(dec) * np.sin(angle), north) % (2 * np.pi))


def _sine_needed(spot: Spot, choices: Choices) -> Floats:
    """Sine of the geometric altitude that clears horizon profile and lowest altitude, by azimuth bin."""
    azimuth = (np.arange(AZIMUTH_BINS) + 0.5) * 2 * np.pi / AZIMUTH_BINS
    needed = np.maximum(spot.horizon.altitude_at(azimuth), np.radians(choices.min_altitude_deg))
    return np.asarray(np.sin(needed - refraction_from_apparent(needed, pressure_at(spot.height_m))))


def clear_of_everything(
    sines: NDArray[np.float32], ra: Floats, dec: Floats, mjd: Floats, spot: Spot, choices: Choices
) -> NDArray[np.bool_]:
    """Where n places are above horizon profile and lowest altitude at t times, shape (n, t)."""
    needed = _sine_needed(spot, choices)
    clear = sines > needed.min()
    rows, columns = np.nonzero(clear)
    if needed.max() > needed.min() and rows.size:
        bins = (_azimuths(ra[rows], dec[rows], mjd[columns], spot) * (AZIMUTH_BINS / (2 * np.pi))).astype(int) % AZIMUTH_BINS
        clear[rows, columns] = sines[rows, columns] > needed[bins]
    return np.asarray(clear)


@dataclass(frozen=True)
class _Sky:
    usable_min: Floats  # shape (n,), Moon bearable
    sky_mag: Floats  # mean while clear
    adds_mag: Floats


def _under_the_moon(
    night: Night,
    mjd: Floats,
    minutes: NDArray[np.int_],
    ra: Floats,
    dec: Floats,
    clear: NDArray[np.bool_],
    sines: NDArray[np.float32],
    limit_mag: Floats,
) -> _Sky:
    """Sky at the places while they are clear, on every third step, and how much of the time the Moon leaves.

    limit_mag: how much the Moon may add at each of them.
    """
    some = slice(None, None, MOON_EVERY)
    rows, columns = np.nonzero(clear[:, some])
    at = minutes[some][columns]
    altitude = np.arcsin(sines[:, some][rows, columns])
    moonless = dark_sky(night.spot.sky_mag, altitude)
    up = night.moon_altitude[at] > 0
    light = np.full(moonless.shape, np.inf)
    if up.any():
        apart = separation(ra[rows[up]], dec[rows[up]], night.moon_ra[at[up]], night.moon_dec[at[up]])
        light[up] = moonlight(np.pi / 2 - altitude[up], np.pi / 2 - night.moon_altitude[at[up]], apart, night.moon_phase[at[up]])
    sky = combined(moonless, light)
    bearable = moonless - sky <= limit_mag[rows]
    n = clear.shape[0]
    total = np.bincount(rows, minlength=n)
    with np.errstate(invalid="ignore", divide="ignore"):
        kept = np.bincount(rows, bearable, n) / total
        mean_sky = -2.5 * np.log10(np.bincount(rows, 10.0 ** (-0.4 * sky), n) / total)
        mean_moonless = -2.5 * np.log10(np.bincount(rows, 10.0 ** (-0.4 * moonless), n) / total)
    usable = np.where(total > 0, clear.sum(axis=1) * STEP_MIN * np.nan_to_num(kept), 0.0)
    return _Sky(usable, mean_sky, mean_moonless - mean_sky)


def _seasons(ra: Floats, night: Night) -> NDArray[np.int_]:
    """0 coming, 1 at its best, 2 ending, 3 off season: by the hour angle at mean solar midnight."""
    middle = float(night.mjd[len(night.mjd) // 2])
    hours = (np.degrees(earth_rotation_angle(middle) + night.spot.observer.longitude_rad - ra) / 15.0 + 12.0) % 24.0 - 12.0
    return np.select([np.abs(hours) <= SEASON_H, np.abs(hours) > 3 * SEASON_H, hours < 0], [1, 3, 0], default=2)


SEASONS: tuple[Season, ...] = ("coming", "at its best", "ending", "off season")


def fit(share: Floats) -> Floats:
    """How well a subject sits in the frame, 0..1: a bell over the logarithm of its share, best at six tenths."""
    return np.asarray(np.exp(-((np.log(np.maximum(share, 1e-6) / BEST_SHARE) / SHARE_SPREAD) ** 2) / 2.0))


@dataclass(frozen=True)
class Wanted:
    """What to show of it all; an empty choice is no choice."""

    words: str = ""
    kinds: tuple[str, ...] = ()  # none: all but whole constellations and single stars
    seasons: tuple[Season, ...] = ()
    smallest_percent: float = 3.0  # of the frame
    largest_percent: float = 200.0


@dataclass(frozen=True)
class Ranking:
    rows: tuple[Ranked, ...]  # one page
    count: int  # of all that match
    dark_minutes: int
    frame: Frame


def rank(found: Catalogue, rig: Rig, night: Night, choices: Choices, wanted: Wanted, offset: int = 0, limit: int = 20) -> Ranking:
    """The best for this rig, spot and night, one page of it, the worthiest first."""
    frame = frame_of(rig)
    share = share_of_frame(found.extent_deg, found.width_deg, (frame.long_deg, frame.short_deg))
    chosen = (share * 100 >= wanted.smallest_percent) & (share * 100 <= wanted.largest_percent)
    chosen &= ~found.stands_aside
    season = _seasons(found.ra, night)
    kinds = wanted.kinds or tuple(kind for kind in KINDS if kind not in ONLY_WHEN_ASKED)
    chosen &= np.isin(found.kind, [KINDS.index(kind) for kind in kinds if kind in KINDS])
    if wanted.seasons:
        chosen &= np.isin(season, [SEASONS.index(one) for one in wanted.seasons])
    if wanted.words.strip():
        called = {one.key for one in found.search(wanted.words)}
        chosen &= np.fromiter((one.key in called for one in found.entries), dtype=bool)
    which = np.flatnonzero(chosen)

    minutes = np.flatnonzero(night.sun_altitude < np.radians(DARK_SUN_DEG[choices.darkness]))
    dark_minutes = minutes.size
    minutes = minutes[::STEP_MIN]
    if not which.size or not minutes.size:
        return Ranking((), 0, dark_minutes, frame)
    mjd = night.mjd[minutes]
    directions = star_vectors(found.icrs[which], float(mjd[mjd.size // 2]))
    ra, dec = (np.asarray(one) for one in erfa.c2s(directions))
    sines = sine_altitudes(directions, mjd, night.spot)
    clear = clear_of_everything(sines, ra, dec, mjd, night.spot, choices)
    gain = _gains(found, rig)
    sky = _under_the_moon(night, mjd, minutes, ra, dec, clear, sines, choices.moon_limit_mag + gain[which])

    dark = np.nan_to_num(sky.sky_mag, nan=night.spot.sky_mag) + gain[which]
    contrast = 10.0 ** (-0.4 * (found.surface_mag[which] - dark))
    lined = found.has_lines[which]
    through = np.where(lined | (not frame.narrow), 1.0, NARROW_ON_CONTINUUM)
    enough = 1.0 - np.exp(-sky.usable_min / NIGHT_MIN)
    worth = 100 * enough * fit(share[which]) * contrast / (contrast + SHOWS_AT) * through
    up = sky.usable_min > 0
    order = np.lexsort((-found.extent_deg[which], -worth))
    order = order[up[order]]

    top = np.degrees(np.arcsin(np.clip(sines.max(axis=1), -1, 1)))
    rows = []
    for one in order[offset : offset + limit]:
        number = int(which[one])
        entry = found.entries[number]
        rows.append(
            Ranked(
                entry,
                float(share[number] * 100),
                round(float(sky.usable_min[one])),
                float(top[one]),
                float(sky.sky_mag[one]),
                float(max(sky.adds_mag[one], 0.0)),
                SEASONS[int(season[number])],
                float(worth[one]),
                _note(entry.target, frame, float(share[number]), float(sky.adds_mag[one]), choices.moon_limit_mag + gain[number]),
                _neighbours(found, number, frame),
                _worth(
                    entry,
                    frame,
                    float(share[number]),
                    float(sky.usable_min[one]),
                    float(sky.sky_mag[one]),
                    float(gain[number]),
                    float(worth[one]),
                ),
            )
        )
    return Ranking(tuple(rows), int(np.count_nonzero(up)), dark_minutes, frame)


def _gains(found: Catalogue, rig: Rig) -> Floats:
    """By how many magnitudes the filters of a rig darken the sky for each entry, shape (n,)."""
    through, gain = Through(rig.camera, tuple(rig.filters)), np.zeros(len(found.entries))
    for places in found.shine.values():
        gain[places] = through.gain_mag(found.entries[int(places[0])].target)
    return gain


def _note(target: Target, frame: Frame, share: float, adds_mag: float, limit_mag: float) -> str:
    if frame.narrow and target.light == "continuum":
        return "shines without lines: take the narrow filter off"
    if share > 1.02:
        return "larger than the frame: a mosaic, or part of it"
    if adds_mag > limit_mag / 2:
        return f"the Moon brightens its sky by {adds_mag:.1f} mag"
    return ""


def _neighbours(found: Catalogue, number: int, frame: Frame) -> tuple[str, ...]:
    """The largest others that come into the frame when this one is in its middle."""
    near = found.icrs @ found.icrs[number] > np.cos(np.radians(frame.short_deg / 2))
    beside = near & (found.extent_deg > 0.02 * frame.short_deg) & (found.extent_deg < frame.long_deg)
    beside[number] = False
    names = []
    for one in np.flatnonzero(beside)[np.argsort(-found.extent_deg[beside])]:
        entry = found.entries[int(one)]
        if entry.key not in found.stood_for and entry.target.kind not in {"constellation", "Milky Way field", "star"}:
            names.append(entry.target.name)
    return tuple(names[:NEIGHBOURS])


def _worth(entry: Entry, frame: Frame, share: float, usable_min: float, sky_mag: float, gain_mag: float, worth: float) -> Verdict:
    """The worth with its factors, each to be opened."""
    target = entry.target
    contrast = float(10.0 ** (-0.4 * (target.surface_mag - sky_mag - gain_mag)))
    through = NARROW_ON_CONTINUUM if frame.narrow and target.light == "continuum" else 1.0
    said = "from its magnitude and size" if entry.surface_measured else "typical of its kind, from memory"
    working = Working(
        "worth",
        "Worth tonight",
        "100 (1 − e^(−t/150 min)) · exp(−(ln(s/0.6)/0.8)²/2) · c/(c + 0.1) · f",
        (
            Quantity("Usable time", usable_min, "min", "t", 0),
            Quantity("Share of the frame", share * 100, "%", "s", 0),
            Quantity(f"Surface brightness, {said}", target.surface_mag, "mag/arcsec²", decimals=1),
            Quantity("Sky there, mean over that time", sky_mag, "mag/arcsec²", decimals=2),
            *((Quantity("Its filter is worth a sky darker by", gain_mag, "mag", decimals=1),) if gain_mag else ()),
            Quantity("Contrast, 10^(−0.4 (surface − sky))", contrast, "", "c", 3),
            Quantity("What the filter leaves", through, "", "f"),
        ),
        Quantity("Worth", worth, "of 100", decimals=0),
        "Our own weighting, no published figure; sky by Krisciunas & Schaefer 1991, PASP 103, 1033",
        "common practice",
        f"Usable time in steps of {STEP_MIN} minutes. Place and size: {entry.origin}.",
    )
    return Verdict(
        "Worth",
        "go",
        f"{target.name} is worth {worth:.0f} of 100 tonight.",
        "time, frame, contrast and filter together",
        workings=(working,),
    )
