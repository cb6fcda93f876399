"""How good the axis must be for this rig, sub and target, and which ways of aligning reach it from this spot."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Rig
from widedusk.core.pole.axis import AxisError, aim, arc_words, axis_direction
from widedusk.core.pole.tolerance import METHODS, Method, axis_tolerance_arcmin
from widedusk.core.pole.verdict import pole_hidden
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import altaz
from widedusk.core.sky.places import star_place
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_RAD_S, direction, drift_rad_s, field_rotation_rad_s
from widedusk.core.tracking.elongation import tolerated_trail_px
from widedusk.core.verdict import Level, Quantity, Verdict, Working

RADIAN_ARCSEC = float(np.degrees(1.0) * 3600.0)


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
    tolerance_arcmin: float
    scale_arcsec_px: float
    trail_px: float
    exposure_s: float
    rows: tuple[MethodRow, ...]
    advised: str  # key of the quickest possible way that is sure to reach it; empty when none is
    verdict: Verdict


def _far(arcmin: float) -> str:
    return f"{arcmin / 60:g}°" if arcmin >= 60 else f"{arcmin:g}′" if arcmin >= 1 else f"{arcmin * 60:.0f}″"


def _row(method: Method, tolerance: float, rig: Rig, hidden: str) -> MethodRow:
    fits = "yes" if method.worst_arcmin <= tolerance else "perhaps" if method.best_arcmin <= tolerance else "no"
    why_not = ""
    if method.needs_pole and hidden:
        why_not = hidden
    elif method.key == "scope" and rig.tracker.scope_view == "none":
        why_not = "This tracker has no polar scope."
    reaches = f"{_far(method.best_arcmin)} to {_far(method.worst_arcmin)}"
    return MethodRow(
        method.key, method.name, reaches, method.best_arcmin, method.worst_arcmin, method.minutes, fits, not why_not, why_not
    )


def need(rig: Rig, spot: Spot, exposure_s: float, choices: Choices) -> Need:
    """Tolerance and the table of methods. The drift of the worst direction is the same for every target."""
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    trail = tolerated_trail_px(choices.elongation_limit, rig.star_fwhm_px)
    tolerance = axis_tolerance_arcmin(trail, scale, exposure_s)
    rows = tuple(_row(method, tolerance, rig, pole_hidden(spot)) for method in METHODS)
    sure = [row for row in rows if row.possible and row.fits == "yes"]
    best = min(sure, key=lambda row: row.minutes, default=None)
    level: Level = "go" if best else "care"
    working = Working(
        "tolerance",
        "Axis tolerance",
        "ε = L s / (ω t)",
        (
            Quantity("A star may lengthen to", choices.elongation_limit, "× its width", "e", 2),
            Quantity("Untrailed star", rig.star_fwhm_px, "px FWHM"),
            Quantity("Tolerated trail", trail, "px", "L", 2),
            Quantity("Image scale", scale, "″/px", "s", 2),
            Quantity("Sub", exposure_s, "s", "t", 0),
        ),
        Quantity("Axis tolerance", tolerance, "′", "ε"),
        "Drift is ω (M − P) × s: worst case ω ε for any star; L = σ √(12 (e² − 1))",
        "published",
        "Meridian case of the drift method: 1′ of azimuth gives 1″ in 3.81 min. The limit e is common practice.",
    )
    verdict = Verdict(
        "How good",
        level,
        f"Align within {arc_words(tolerance)}: {best.name[0].lower() + best.name[1:]} will do."
        if best
        else f"Align within {arc_words(tolerance)}: no way is sure to reach it here; measure, turn, measure again.",
        f"trail of {trail:.1f} px in {exposure_s:.0f} s at {scale:.2f} ″/px",
        f"About {best.minutes} min." if best else "A shorter sub needs less.",
        (
            Quantity("Tolerance", tolerance, "′", working="tolerance"),
            Quantity("Sub", exposure_s, "s", decimals=0, working="tolerance"),
            Quantity("Scale", scale, "″/px", decimals=2, working="tolerance"),
        ),
        workings=(working,),
    )
    return Need(tolerance, scale, trail, exposure_s, rows, best.key if best else "", verdict)


def target_drift(
    rig: Rig, spot: Spot, target: Target, error: AxisError | None, needed: Need, mjd: Floats, choices: Choices
) -> Verdict:
    """What an axis error does to this target over a window: drift within a sub, and the turn of the field.

    error: as measured; None takes one of the size expected, in the worst direction. mjd: minutes of the window, shape (n,).
    """
    ra, dec = star_place(np.radians(target.ra_deg), np.radians(target.dec_deg), float(mjd[len(mjd) // 2]))
    altitude, azimuth = altaz(ra, dec, mjd, spot.observer)
    star = direction(altitude, azimuth)
    aim_altitude, aim_azimuth = aim(spot.observer, choices.pole)
    total = choices.alignment_arcmin if error is None else error.total_arcmin
    if error is None:
        # Any direction: drift is at most w e, rotation at most w e cos(dec).
        drift = np.full(mjd.shape, SIDEREAL_RATE_RAD_S * np.radians(total / 60.0))
        turn = drift * np.cos(dec)
    else:
        axis, pole = axis_direction(error, aim_altitude, aim_azimuth), direction(aim_altitude, aim_azimuth)
        drift = np.linalg.norm(drift_rad_s(axis, pole, star), axis=-1)
        turn = np.abs(field_rotation_rad_s(axis, pole, star))
    px = float(drift.max()) * RADIAN_ARCSEC / needed.scale_arcsec_px * needed.exposure_s
    degrees_h = float(np.degrees(turn.max()) * 3600.0)
    corner_px = float(np.hypot(rig.camera.width_mm, rig.camera.height_mm) / 2 * 1000.0 / rig.camera.pitch_um)
    corner_h = float(turn.max()) * 3600.0 * corner_px
    enough = px <= needed.trail_px
    working = Working(
        "target",
        "Drift and turn of the field at this target",
        "|ω (M − P) × s| and |ω (M − P) · s|, the largest of the window",
        (
            Quantity("Axis off the pole", total, "′", "ε", 2),
            Quantity("above it", error.high_arcmin, "′", decimals=2) if error else Quantity("Direction", text="the worst"),
            Quantity("east of it", error.east_arcmin, "′", decimals=2)
            if error
            else Quantity("Declination", float(np.degrees(dec)), "°", "δ", 1),
            Quantity("Sub", needed.exposure_s, "s", "t", 0),
            Quantity("Image scale", needed.scale_arcsec_px, "″/px", "s", 2),
            Quantity("Half the diagonal", corner_px, "px", decimals=0),
        ),
        Quantity("Trail in a sub", px, "px", decimals=2),
        "Rotation of frames: M axis, P pole, s star, unit vectors",
        "published",
    )
    return Verdict(
        "At this target",
        "go" if enough else "care",
        f"{'Measured' if error else 'Expected'} {arc_words(total)} off: {target.name} trails {px:.1f} px "
        f"in {needed.exposure_s:.0f} s, the field turns {degrees_h:.3f}° an hour.",
        f"{needed.trail_px:.1f} px are tolerated",
        ""
        if error
        else "Direction unknown, so the worst is taken; measured by photographs or drift, this becomes the true figure.",
        (
            Quantity("Trail", px, "px", decimals=1, working="target"),
            Quantity("Field turns", degrees_h, "° an hour", decimals=3, working="target"),
            Quantity("Corners wander", corner_h, "px an hour", decimals=0, working="target"),
        ),
        workings=(working,),
    )
