"""What the field asks when the night is not as planned, answered beforehand: a shorter sub in more wind or with a worse axis."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from widedusk.core.exposure.setting import conditions, expected_drifts
from widedusk.core.exposure.window import read
from widedusk.core.field.planned import PlannedRun
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.plan.outlook import advised, pauses_of
from widedusk.core.plan.schedule.trip import TripRun
from widedusk.core.plan.schedule.what_if import WhatIf
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S
from widedusk.core.tracking.wind import WindLevel

WINDS: tuple[WindLevel, ...] = ("none", "light", "fresh", "strong")
AXES_ARCMIN = (1.0, 3.0, 6.0, 12.0, 25.0, 60.0)


@dataclass(frozen=True)
class SubUnder:
    """What one run would take in another wind or with another axis. keeps_percent: of the sub that is planned; all expected."""

    wind: WindLevel
    axis_arcmin: float
    keeps_percent: float
    exposure_s: float
    better_percent: float  # of that sub
    frames_an_hour: float


def subs_under(run: PlannedRun) -> tuple[SubUnder, ...]:
    """Every wind with every axis; an axis is off in the worst direction. The ISO stays as on the card."""
    seen, found = run.seen, []
    dec = float(np.radians(run.target.dec_deg))
    for wind in WINDS:
        choices = replace(seen.subject.choices, wind_level=wind, iso=run.iso)
        for axis in AXES_ARCMIN:
            subject = replace(seen.subject, choices=choices, drifts=expected_drifts(axis, dec), axis="expected")
            wanted = conditions(subject, seen.light)
            advice = advised(subject, seen.light, wanted)
            planned = read(subject.rig, seen.light, wanted, advice.step, run.exposure_s)
            pause = pauses_of(choices).after(advice.exposure_s)
            found.append(
                SubUnder(
                    wind,
                    axis,
                    round(100.0 * planned.keep, 1),
                    advice.exposure_s,
                    round(100.0 * advice.keep, 1),
                    round(3600.0 / (advice.exposure_s + pause), 1),
                )
            )
    return tuple(found)


def still_trail_px(run: PlannedRun) -> float:
    """How long a camera that stands still would draw a star in this sub, pixels: ω cos δ t over the image scale."""
    rig = run.seen.subject.rig
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    return float(SIDEREAL_RATE_ARCSEC_S * np.cos(np.radians(run.target.dec_deg)) * run.exposure_s / scale)


@dataclass(frozen=True)
class OtherNight:
    """One way that the night may go, and what is best then."""

    name: str
    sentence: str
    loses_percent: float | None
    runs: tuple[TripRun, ...]


def other_nights(found: Sequence[WhatIf]) -> tuple[OtherNight, ...]:
    return tuple(OtherNight(one.name, one.verdict.sentence, one.loses_percent, one.runs) for one in found)
