"""What a run teaches: figures of this tracker and lens as measured, beside those that plans use now. Nothing changes by itself."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.judge.account import JudgedRun
from widedusk.core.judge.course import quantile
from widedusk.core.kit.parts import Rig

LEAST_TURNS = 1.5  # of the worm, from which its amplitude is good to a tenth: common practice, held by tests
LEAST_SHARP = 5  # frames
SKY_AGREES_MAG = 0.1  # skies of one place differ by more from night to night


@dataclass(frozen=True)
class Lesson:
    """measured, in_use: as words, the number first; value, second: what would be used from now on (half amplitude ″ and period s,
    width px, or mag/arcsec² at the zenith); differs: beyond what the measurement leaves open."""

    key: Literal["periodic error", "star width", "sky"]
    name: str
    measured: str
    in_use: str
    value: float
    second: float | None
    differs: bool


def lessons(judged: JudgedRun, rig: Rig, place_sky_mag: float | None) -> tuple[Lesson, ...]:
    """Every figure that this run tells well enough to plan with."""
    found = []
    worm, tracker = judged.worm, rig.tracker
    if worm is not None and worm.turns >= LEAST_TURNS and tracker is not None:
        off = abs(worm.half_amplitude_arcsec - tracker.pe_half_amplitude_arcsec)
        half, period = round(worm.half_amplitude_arcsec, 1), round(worm.period_s)
        found.append(
            Lesson(
                "periodic error",
                "Periodic error",
                f"±{half:.1f} ± {worm.half_amplitude_sigma:.1f}″ in {period} s",
                f"±{tracker.pe_half_amplitude_arcsec:g}″ in {tracker.pe_period_s:g} s",
                half,
                float(period),
                off > 2 * worm.half_amplitude_sigma or abs(worm.period_s - tracker.pe_period_s) > max(10.0, 3 * worm.period_sigma),
            )
        )
    width = judged.columns.width[judged.columns.elongation < 1.1]
    width = width[np.isfinite(width)]
    if width.size >= LEAST_SHARP:
        best = round(quantile(width, 0.25, rig.star_fwhm_px), 2)
        found.append(
            Lesson(
                "star width",
                "Width of stars",
                f"{best:.2f} px",
                f"{rig.star_fwhm_px:g} px",
                best,
                None,
                abs(best - rig.star_fwhm_px) > 0.1 * rig.star_fwhm_px,
            )
        )
    if judged.zenith_sky is not None and place_sky_mag is not None:
        zenith, sigma = judged.zenith_sky
        found.append(
            Lesson(
                "sky",
                "Sky of this place",
                f"{zenith:.2f} ± {sigma:.2f} mag/arcsec² at the zenith, without Moon",
                f"{place_sky_mag:g} mag/arcsec²",
                round(zenith, 2),
                None,
                abs(zenith - place_sky_mag) > max(2 * sigma, SKY_AGREES_MAG),
            )
        )
    return tuple(found)
