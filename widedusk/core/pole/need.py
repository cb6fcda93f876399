"""How good the axis must be for this rig, sub and target, and which ways of aligning reach it from this spot."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.choices import ComesAlong
from widedusk.core.exposure.setting import Subject, motion_of
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Rig
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.pole.tolerance import (
    METHODS,
    Method,
    Tolerance,
    align_words,
    as_it_stands,
    basis_words,
    longer_words,
    pays,
    reach,
    tolerance_workings,
    way_that_suffices,
    why_not,
)
from widedusk.core.scene import Spot
from widedusk.core.verdict import Quantity, Verdict, Working, duration_words


@dataclass(frozen=True)
class MethodRow:
    """One way of aligning against what is needed. fits: "yes", "perhaps" (its best result would do) or "no"."""

    key: str
    name: str
    reaches: str
    best_arcmin: float
    worst_arcmin: float
    minutes: int
    fits: str
    possible: bool
    why_not: str


@dataclass(frozen=True)
class Need:
    tolerance: Tolerance
    tolerance_arcmin: float
    rows: tuple[MethodRow, ...]
    advised: str  # key of the quickest possible way that is sure to reach it; empty when none is
    verdict: Verdict


def _far(arcmin: float) -> str:
    return f"{arcmin / 60:g}°" if arcmin >= 60 else f"{arcmin:g}′" if arcmin >= 1 else f"{arcmin * 60:.0f}″"


def _row(method: Method, tolerance: float, rig: Rig, hidden: str, along: ComesAlong) -> MethodRow:
    fits = "yes" if method.worst_arcmin <= tolerance else "perhaps" if method.best_arcmin <= tolerance else "no"
    told = why_not(method, rig, hidden, along)
    reaches = f"{_far(method.best_arcmin)} to {_far(method.worst_arcmin)}"
    return MethodRow(
        method.key, method.name, reaches, method.best_arcmin, method.worst_arcmin, method.minutes, fits, not told, told
    )


def need(subject: Subject, tolerance: Tolerance, now_s: float, spot: Spot) -> Need:
    """The table of ways against the tolerance. now_s: the sub that the axis leaves as it stands or is expected."""
    hidden = pole_hidden(spot)
    along = subject.choices.comes_along
    rows = tuple(_row(method, tolerance.arcmin, subject.rig, hidden, along) for method in METHODS)
    still = subject.choices.tracking == "untracked"
    best = None if still else way_that_suffices(tolerance.arcmin, subject.rig, hidden, along)
    told = as_it_stands(subject, tolerance, now_s)
    minutes = f"About {best.minutes} min." if best else ""
    verdict = Verdict(
        "How good",
        "go" if still or (best and not told and not pays(tolerance)) else "care",
        align_words(subject, tolerance, best),
        basis_words(subject, tolerance),
        " ".join(one for one in (minutes, told, longer_words(tolerance)) if one),
        ()
        if still
        else (
            reach("Tolerance", tolerance.arcmin, "tolerance"),
            reach("In a direction at random", tolerance.random_arcmin, "sharp"),
            reach("For the frame", tolerance.framing_arcmin, "framing"),
            Quantity("Sub", tolerance.exposure_s, "s", decimals=0, working="sharp"),
        ),
        workings=tolerance_workings(subject, tolerance),
    )
    return Need(tolerance, tolerance.arcmin, rows, best.key if best else "", verdict)


def target_drift(subject: Subject, tolerance: Tolerance, now_s: float, kept: float) -> Verdict:
    """What the axis does to this target over its window: drift within a sub, and the field rotation; as Exposure reckons it.

    now_s: the sub that is taken, kept: the share of it that stays sharp.
    """
    rig, drift = subject.rig, subject.drift
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    px = motion_of(subject, drift)[0].drift_speed_px_s * now_s  # as Exposure has it: without what guiding takes
    turn = max(one.turn_rad_s for one in subject.drifts)
    degrees_h = float(np.degrees(turn) * 3600.0)
    corner_px = float(np.hypot(rig.camera.width_mm, rig.camera.height_mm) / 2 * 1000.0 / rig.camera.pitch_um)
    off, measured = arc_words(drift.axis_arcmin), subject.axis == "measured"
    how = {"measured": f"Measured {off} off", "expected": f"Expected {off} off", "usual": f"Usually within {off}, not measured"}
    who = how[subject.axis]
    enough = kept >= tolerance.wanted
    if subject.choices.tracking == "untracked":
        return Verdict(
            "At this target",
            "go" if enough else "care",
            f"{subject.target.name} trails {px:.1f} px in {duration_words(now_s)}.",
            f"{kept * 100:.0f} % of frames stay within the trail you take",
            figures=(Quantity("Trail", px, "px", decimals=1),),
        )
    working = Working(
        "target",
        "Drift and field rotation at this target",
        "|ds/dt + ω M × s| and |ω (M − P) · s|, the largest of the window" if measured else "ω ε and ω ε cos δ, at the worst",
        (
            Quantity("Axis off the pole", drift.axis_arcmin, "′", "ε", 2),
            Quantity("Drift along dec", drift.dec_arcsec_s * 60, "″/min", decimals=2),
            Quantity("Drift along RA", drift.ra_arcsec_s * 60, "″/min", decimals=2),
            Quantity("Declination", subject.target.dec_deg, "°", "δ", 1),
            Quantity("Sub", now_s, "s", "t", 0),
            Quantity("Image scale", scale, "″/px", "s", 2),
            Quantity("Half the diagonal", corner_px, "px", decimals=0),
        ),
        Quantity("Trail in a sub", px, "px", decimals=2),
        "Rotation of frames: M axis, P pole, s star as the air lifts it, unit vectors; refraction Bennett 1982",
        "published",
    )
    return Verdict(
        "At this target",
        "go" if enough else "care",
        f"{who}: {subject.target.name} trails {px:.1f} px in {duration_words(now_s)}, the field turns {degrees_h:.3f}° an hour.",
        f"{kept * 100:.0f} % of frames stay sharp, {tolerance.wanted * 100:.0f} % are wanted",
        "" if measured else "Where it stands is not known; measured by photographs or drift, this becomes the true figure.",
        (
            Quantity("Trail", px, "px", decimals=1, working="target"),
            Quantity("Field turns", degrees_h, "° an hour", decimals=3, working="target"),
            Quantity("Corners wander", turn * 3600.0 * corner_px, "px an hour", decimals=0, working="target"),
        ),
        workings=(working,),
    )
