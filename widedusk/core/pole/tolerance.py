"""How exact the alignment must be for this lens, sub and eye."""

from dataclasses import dataclass

from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S

ARCMIN_PER_RADIAN = 3437.746770784939


@dataclass(frozen=True)
class Method:
    """A way to align and the axis error it is known to leave, best and worst, in arcminutes; and how long it takes."""

    name: str
    best_arcmin: float
    worst_arcmin: float
    key: str
    minutes: int  # from start to locked screws, with a little practice
    needs_pole: bool = False  # the pole must be in sight


# From the coarsest to the finest. Figures are common practice, no source; phone compasses can be 10-20° wrong.
METHODS = (
    Method("Compass and latitude scale", 60.0, 300.0, "rough", 5),
    Method("Sighting along the axis at the pole", 30.0, 60.0, "sight", 5, True),
    Method("Stars set on the polar scope's dial", 2.0, 6.0, "scope", 10, True),
    Method("Drift of two stars", 1.0, 2.0, "drift", 30),
    Method("Two photographs", 0.3, 1.0, "photographs", 8),
)


def axis_tolerance_arcmin(trail_px: float, scale_arcsec_px: float, exposure_s: float) -> float:
    """Axis error whose worst-case drift just makes the tolerated trail: trail * s / (w t)."""
    return trail_px * scale_arcsec_px / (SIDEREAL_RATE_ARCSEC_S * exposure_s) * ARCMIN_PER_RADIAN


def method_that_suffices(tolerance_arcmin: float) -> Method | None:
    """The coarsest method whose worst result is still within the tolerance; None when even the finest may miss it."""
    return next((method for method in METHODS if method.worst_arcmin <= tolerance_arcmin), None)
