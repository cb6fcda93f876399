"""What a run teaches: figures of this tracker and lens as measured, beside those that plans use now. Nothing changes by itself."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.judge.account import CauseFound, JudgedRun
from widedusk.core.judge.course import quantile, same_size
from widedusk.core.judge.finding import HARMLESS
from widedusk.core.judge.reading import MOVED
from widedusk.core.kit.parts import Rig

LEAST_TURNS = 1.5  # of the worm, from which its amplitude is good to a tenth: common practice, held by tests
SURELY = 3.0  # sigmas above nothing, from which a periodic error is one
WIDTH_SIGMA = 0.045  # of the width: seeing, colours put in, tone curves; counted on runs by other physics than ours
LEAST_SHARP = 5  # frames
SKY_AGREES_MAG = 0.1  # skies of one place differ by more from night to night


# What moves the picture by itself, so that its way tells nothing of worm or axis; a jump is taken out of it.
MOVES = frozenset({"creep", "wind", "stopped", "hemisphere", "rate", "rotation"})
# What leaves every star of a frame to be found, and where it is.
KEEPS_STARS = frozenset({"axis", "worm", "coma", "soft corners", "tilt", "moon", "lamp", "settings", *HARMLESS}) - {MOVED}
# What leaves stars of the middle as wide across as they are.
KEEPS_WIDTH = frozenset({"coma", "soft corners", "moon", "lamp", "worm", "axis", *HARMLESS})


@dataclass(frozen=True)
class Lesson:
    """measured, in_use: as words, the number first; value, second: what would be used from now on (half amplitude ″ and period s,
    width px, or mag/arcsec² at the zenith); differs: beyond what the measurement leaves open. why_not: what else acts on these
    frames, so that the figure is not offered; else empty."""

    key: Literal["periodic error", "star width", "sky"]
    name: str
    measured: str
    in_use: str
    value: float
    second: float | None
    differs: bool
    why_not: str = ""


def lessons(judged: JudgedRun, rig: Rig, place_sky_mag: float | None, file_side_px: float | None = None) -> tuple[Lesson, ...]:
    """Every figure that this run tells well enough to plan with, and those that it would tell if nothing else acted on it.

    file_side_px: long side of its files, where it is known."""
    found = (_of_worm(judged, rig), _of_width(judged, rig, file_side_px), _of_sky(judged, place_sky_mag))
    return tuple(one for one in found if one is not None)


def left_out_of_axis(judged: JudgedRun) -> frozenset[int]:
    """Numbers of the frames that do not tell the axis: with fewer stars, or others, or with these not where they belong."""
    return frozenset(place for one in judged.causes if one.key not in KEEPS_STARS for place in one.frames)


def why_no_axis(judged: JudgedRun) -> str:
    """What moves the picture beside the axis, as a reason not to use what its way says of it; else empty."""
    return _reason(one for one in judged.causes if one.key in MOVES)


def _reason(causes: Iterable[CauseFound]) -> str:
    first = next(iter(causes), None)
    return "" if first is None else f"Not offered: something else acts on these frames ({first.name[0].lower()}{first.name[1:]})."


def _of_worm(judged: JudgedRun, rig: Rig) -> Lesson | None:
    worm, tracker = judged.worm, rig.tracker
    if (
        worm is None
        or worm.turns < LEAST_TURNS
        or tracker is None
        or worm.half_amplitude_arcsec < SURELY * worm.half_amplitude_sigma
    ):
        return None
    off = abs(worm.half_amplitude_arcsec - tracker.pe_half_amplitude_arcsec)
    half, period = round(worm.half_amplitude_arcsec, 1), round(worm.period_s)
    return Lesson(
        "periodic error",
        "Periodic error",
        f"±{half:.1f} ± {worm.half_amplitude_sigma:.1f}″ in {period} s",
        f"±{tracker.pe_half_amplitude_arcsec:g}″ in {tracker.pe_period_s:g} s",
        half,
        float(period),
        off > 2 * worm.half_amplitude_sigma or abs(worm.period_s - tracker.pe_period_s) > max(10.0, 3 * worm.period_sigma),
        _reason(one for one in judged.causes if one.key in MOVES),
    )


def _of_width(judged: JudgedRun, rig: Rig, file_side_px: float | None) -> Lesson | None:
    # Where no named star is left that does not clip, what is measured may be hot pixels.
    sharp = (judged.columns.elongation < 1.1) & np.isfinite(judged.columns.clear)
    width = np.where(sharp, judged.columns.width, np.nan)
    spoilers = [one for one in judged.causes if one.key not in KEEPS_WIDTH]
    touched = sorted({place for one in spoilers for place in one.frames})
    free = np.delete(width, touched)
    why = ""
    if np.count_nonzero(np.isfinite(free)) < LEAST_SHARP:
        free, why = width, _reason(spoilers)
    free = free[np.isfinite(free)]
    if free.size < LEAST_SHARP:
        return None
    if not same_size(rig.camera.side_px, file_side_px):
        why = why or "Not offered: these files have another size than the sensor, and so have their pixels."
    best = round(quantile(free, 0.25, rig.star_fwhm_px), 2)
    return Lesson(
        "star width",
        "Width of stars",
        f"{best:.2f} ± {WIDTH_SIGMA * best:.2f} px",
        f"{rig.star_fwhm_px:g} px",
        best,
        None,
        abs(best - rig.star_fwhm_px) > 0.1 * rig.star_fwhm_px,
        why,
    )


def _of_sky(judged: JudgedRun, place_sky_mag: float | None) -> Lesson | None:
    if judged.zenith_sky is None or place_sky_mag is None:
        return None
    zenith, sigma = judged.zenith_sky
    return Lesson(
        "sky",
        "Sky of this place",
        f"{zenith:.2f} ± {sigma:.2f} mag/arcsec² at the zenith, without Moon",
        f"{place_sky_mag:g} mag/arcsec²",
        round(zenith, 2),
        None,
        abs(zenith - place_sky_mag) > max(2 * sigma, SKY_AGREES_MAG),
        _reason(one for one in judged.causes if one.key in judged.sky_spoilt_by),
    )
