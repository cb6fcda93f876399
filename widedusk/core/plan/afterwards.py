"""A run beside its plan: what was expected of just these frames, and what they were measured to be.

Expected is what Exposure says of this night, at the length that was shot. Two figures agree where they differ by no more than
chance among so many frames, or what the measurement leaves open, makes them.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.exposure.sub import Conditions
from widedusk.core.judge.account import JudgedRun, counted
from widedusk.core.judge.course import lights, quantile
from widedusk.core.kit.dew import Air, below_air_c
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.plan.outlook import Outlook
from widedusk.core.scene import Spot
from widedusk.core.sky.brightness import combined, dark_sky
from widedusk.core.sky.time import SECOND
from widedusk.core.tracking.keep_rate import elongations
from widedusk.core.tracking.wind import GUST_FREE_S, WindLevel, gust_free_s, wind_keeps
from widedusk.core.verdict import Level, Mark, Quantity, Verdict, Working, joined

BY_CHANCE = ("knock", "lamp", "cloud", "cap")  # what an hour of `spoils_per_h` stands for
DEW_AGREES_MIN = 45.0
SHAPE_AGREES = 0.05  # of an elongation, that shapes of stars leave open
SKY_AGREES_MAG = 0.15
CLEAR_SHARE = 0.9  # of starlight, from which a night was as clear as a plan takes it to be
SAME_DRIFT = 0.15  # of a drift, for an axis that was measured
TITLE = "As planned, and as measured"
Figure = Literal["keep rate", "elongation", "sky", "starlight", "drift", "wind", "chance", "dew"]


@dataclass(frozen=True)
class Beside:
    """One figure of a run as expected and as measured, the number first. agrees: none where that cannot be said. wind,
    spoils_per_h: what a plan would say instead, to agree with these frames; none where it agrees or no choice of a plan stands
    behind it."""

    key: Figure
    name: str
    expected: str
    measured: str
    agrees: bool | None
    wind: WindLevel | None = None
    spoils_per_h: float | None = None


# How each is expected and measured, from where, and when they are said to agree.
HOW: dict[Figure, tuple[str, str, Mark, str]] = {
    "keep rate": (
        "planned: round(t) × exp(−t/gusts) × exp(−t/chance); measured: kept / frames",
        "As Exposure has it for a sub so long; your own word counts before ours",
        "definition",
        "Agrees within two sigma of a binomial and half a frame.",
    ),
    "elongation": (
        "e = √(1 + σt²/σs²), σt² of worm and drift within a sub, over all phases of the worm",
        "Second moments of a convolution add",
        "definition",
        "Agrees where the medians lie no further apart than the median and nine in ten of the plan, or 0.05.",
    ),
    "drift": (
        "planned: ω sin(axis error) along its direction / scale; "
        "measured: slope of the middle among the stars, the worm fitted beside it",
        "Spherical geometry of an axis off the pole; least squares",
        "definition",
        "An axis nobody measured is taken off in the worst direction: then a slower drift agrees.",
    ),
    "sky": (
        "planned: zenith sky of the place, moved to the altitude, with Moon and twilight; "
        "measured: background against stars of known V, plus 0.2 mag for each airmass that dims these",
        "Krisciunas & Schaefer 1991, PASP 103, 1033, eq. 2 to 21",
        "published",
        "Agrees within two sigma, or 0.15 mag.",
    ),
    "starlight": (
        "T = 10^(−0.4 (z₀ − z)), z the zero point with extinction taken off, z₀ that of the clearest frames; the median",
        "Definition of a magnitude",
        "definition",
        "A plan takes a clear sky; from 90 % on it was one.",
    ),
    "wind": (
        "planned: 1 − exp(−t/gusts); measured: frames that wind spoiled / frames",
        "Levels of wind: common practice, no source",
        "common practice",
        "Agrees within two sigma of a binomial and half a frame; else the level is named that comes nearest.",
    ),
    "chance": (
        "planned: 1 − exp(−t/τ); "
        "measured: frames that a knock, a lamp, a cloud or a cap spoiled / frames, and the τ that would do it",
        "Events at random",
        "definition",
        "A cloud spoils several frames at once: then so many an hour say what it cost, not how often it came.",
    ),
    "dew": (
        "planned: when glass below the air by what your way leaves reaches the dew point; "
        "measured: the first frame that dew dims and widens",
        "Magnus form, WMO-No. 8; how far glass cools is from memory",
        "from memory",
        "Agrees within 45 minutes. Glass that was warmed and stayed dry says nothing.",
    ),
}


def as_planned(figures: Sequence[Beside], judged: JudgedRun) -> Verdict:
    """The run against its plan in a sentence, with how each figure came about."""
    told = [one for one in figures if one.agrees is not None]
    well = sum(bool(one.agrees) for one in told)
    count, sub = judged.count, float(np.median(judged.looks.exposure_s))
    workings = tuple(
        Working(
            one.key,
            one.name,
            HOW[one.key][0],
            (
                Quantity("frames", float(count), decimals=0),
                Quantity("sub", sub, "s", decimals=0),
                Quantity("planned", text=one.expected),
            ),
            Quantity("measured", text=one.measured),
            *HOW[one.key][1:],
        )
        for one in figures
    )
    level: Level = "go" if well == len(told) else "care"
    differs = [one.name for one in told if not one.agrees]
    binding = f"Differs: {joined([name[0].lower() + name[1:] for name in differs])}." if differs else "Nothing differs."
    return Verdict(TITLE, level, f"{well} of {len(told)} figures are as planned.", binding, workings=workings)


def beside(seen: Outlook, judged: JudgedRun, said: Sequence[str], spot: Spot, air: Air | None) -> tuple[Beside, ...]:
    """Every figure that both know. said: the person's own word on each frame, "" where they said nothing."""
    exposure_s = float(np.median(judged.looks.exposure_s))
    found = [
        _keep(seen.wanted, judged, said, exposure_s),
        _elongation(seen.wanted, judged, exposure_s),
        _drift(seen, judged),
        _sky(judged, spot),
        _starlight(judged),
        _wind(seen, judged, exposure_s),
        _chance(seen, judged, exposure_s),
        _dew(seen, judged, spot, air),
    ]
    return tuple(one for one in found if one is not None)


def _by_chance(many: int, of: int, share: float) -> bool:
    """Whether so many of so many may be chance where each has this share: within two sigma of a binomial, and half a frame."""
    return bool(abs(many - of * share) <= 2.0 * np.sqrt(of * share * (1.0 - share)) + 0.5)


def _acted(judged: JudgedRun, causes: Sequence[str]) -> int:
    """Frames that these causes cost."""
    hit = {place for one in judged.causes if one.key in causes for place in one.frames}
    return sum(judged.words[place].word == "cull" for place in hit)


def _keep(wanted: Conditions, judged: JudgedRun, said: Sequence[str], exposure_s: float) -> Beside:
    count, share = judged.count, float(wanted.keep(exposure_s))
    kept = count - counted(judged.words, said)["cull"]
    return Beside(
        "keep rate",
        "Frames that are kept",
        f"{100 * share:.0f} %",
        f"{100 * kept / count:.0f} %, {kept} of {count}",
        _by_chance(kept, count, share),
    )


def _elongation(wanted: Conditions, judged: JudgedRun, exposure_s: float) -> Beside | None:
    seen = judged.columns.elongation[np.isfinite(judged.columns.elongation)]
    if not seen.size:
        return None
    every = np.array([elongations(one, np.array([exposure_s]), wanted.star_fwhm_px)[0] for one in wanted.motions])
    every = every[np.argmax(np.median(every, axis=1))] if wanted.worst else every.ravel()
    middle, high = float(np.median(every)), float(np.quantile(every, 0.9))
    here, most = float(np.median(seen)), float(np.quantile(seen, 0.9))
    open_by = max(SHAPE_AGREES, high - middle)
    agrees = here <= middle + open_by if wanted.worst else abs(here - middle) <= open_by
    worst = ", with the axis off the worst way" if wanted.worst else ""
    return Beside(
        "elongation",
        "Elongation of stars",
        f"{middle:.2f} ×, nine in ten below {high:.2f}{worst}",
        f"{here:.2f} ×, nine in ten below {most:.2f}",
        agrees,
    )


def _drift(seen: Outlook, judged: JudgedRun) -> Beside | None:
    if judged.drift_px_min is None:
        return None
    here, sigma = judged.drift_px_min
    speeds = [60.0 * one.drift_speed_px_s for one in seen.wanted.motions]
    if seen.subject.axis == "measured":
        expected = float(np.mean(speeds))
        agrees = abs(here - expected) <= 2.0 * sigma + SAME_DRIFT * expected
        words = f"{expected:.2f} px a minute, by the axis as measured"
    else:
        expected = max(speeds)
        agrees = here <= expected + 2.0 * sigma
        words = f"up to {expected:.2f} px a minute"
    places = 2 if sigma >= 0.01 else 3
    return Beside("drift", "Drift", words, f"{here:.{places}f} ± {max(sigma, 0.001):.{places}f} px a minute", agrees)


def _sky(judged: JudgedRun, spot: Spot) -> Beside | None:
    lit = lights(judged.looks, spot.observer)
    if lit is None or judged.sky_mag is None or not np.all(lit.altitude > 0):
        return None
    here, sigma = judged.sky_mag
    hoped = float(np.median(combined(dark_sky(spot.sky_mag, lit.altitude), lit.added_mag)))
    return Beside(
        "sky",
        "Sky behind the stars",
        f"{hoped:.2f} mag/arcsec², Moon and dusk in it",
        f"{here:.2f} ± {sigma:.2f} mag/arcsec²",
        abs(here - hoped) <= max(2.0 * sigma, SKY_AGREES_MAG),
    )


def _starlight(judged: JudgedRun) -> Beside | None:
    if not np.isfinite(judged.columns.clear).any():
        return None
    here = quantile(judged.columns.clear, 0.5, 1.0)
    return Beside(
        "starlight",
        "Starlight that comes through",
        "all of a clear sky’s",
        f"{100 * here:.0f} % of that of its clearest frames",
        here >= CLEAR_SHARE,
    )


def _wind(seen: Outlook, judged: JudgedRun, exposure_s: float) -> Beside:
    rig, level = seen.subject.rig, seen.subject.choices.wind_level
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    shares = {one: 1.0 - float(wind_keeps(exposure_s, gust_free_s(one, scale))) for one in GUST_FREE_S}
    hit, count = _acted(judged, ("wind",)), judged.count
    agrees = _by_chance(hit, count, shares[level])
    like = min(shares, key=lambda one: abs(shares[one] - hit / count))
    return Beside(
        "wind",
        "Spoiled by wind",
        f"{100 * shares[level]:.0f} %, wind “{level}”",
        f"{100 * hit / count:.0f} %, {hit} of {count}" + ("" if like == level else f": as in wind “{like}”"),
        agrees,
        None if agrees or like == level else like,
    )


def _chance(seen: Outlook, judged: JudgedRun, exposure_s: float) -> Beside:
    hit, count = _acted(judged, BY_CHANCE), judged.count
    share = 1.0 - float(seen.wanted.unspoilt(exposure_s))
    per_hour = min(round(abs(np.log(max(1.0 - hit / count, 0.5 / count))) * 3600.0 / exposure_s, 1), 60.0)
    agrees = _by_chance(hit, count, share)
    usual = seen.subject.choices.spoils_per_h
    return Beside(
        "chance",
        "Spoiled by knocks, lamps or cloud",
        f"{100 * share:.0f} %, {usual:g} an hour",
        f"{100 * hit / count:.0f} %, {hit} of {count}" + (f": as {per_hour:g} an hour would" if hit else ""),
        agrees,
        spoils_per_h=None if agrees else per_hour,
    )


def _dew(seen: Outlook, judged: JudgedRun, spot: Spot, air: Air | None) -> Beside | None:
    hit = [place for one in judged.causes if one.key == "dew" for place in one.frames]
    school = seen.subject.choices.dew_school
    if air is None or air.point_c is None:
        return None
    began = judged.looks.began_mjd
    ends = float(began[-1]) + float(judged.looks.exposure_s[-1]) * SECOND
    fogs = air.fogs_mjd(below_air_c(school))
    came = float(began[min(hit)]) if hit else None
    due = fogs if fogs is not None and fogs < ends else None
    expected = "none" if due is None else f"from {spot.clock(due)} on unheated glass"
    measured = "none" if came is None else f"from {spot.clock(came)}"
    if came is None:
        agrees = None if due is not None and school != "hood" else due is None  # what was warmed does not fog
    else:
        agrees = due is not None and abs(came - due) * 1440.0 <= DEW_AGREES_MIN
    return Beside("dew", "Dew", expected, measured, agrees)
