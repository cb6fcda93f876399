"""Is the axis good enough for this lens and sub, and where do the pole's stars stand when setting up?"""

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Rig
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.dial import Dial
from widedusk.core.pole.tolerance import METHODS, axis_tolerance_arcmin, method_that_suffices
from widedusk.core.scene import Spot
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S
from widedusk.core.tracking.elongation import star_sigma_px, tolerated_trail_px
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

LOWEST_POLE_DEG = 5.0


def pole_hidden(spot: Spot) -> str:
    """Empty when the pole can be seen from here; else a sentence that says why not."""
    latitude = abs(spot.latitude_deg)
    side, azimuth = ("south", np.pi) if spot.observer.south else ("north", 0.0)
    silhouette = float(np.degrees(spot.horizon.altitude_at(np.asarray(azimuth))))
    if latitude < LOWEST_POLE_DEG:
        return f"The pole stands {latitude:.1f}° high in the {side}, lost in haze: no star near it can be used here."
    if silhouette > latitude:
        return f"The {side} pole, {latitude:.1f}° high, is hidden behind the silhouette of {spot.name} ({silhouette:.0f}° there)."
    if latitude > 85.0:
        return f"The pole stands {90 - latitude:.1f}° from the zenith: few heads tilt that far, and azimuth loses its meaning."
    return ""


def _where(dial: Dial) -> str:
    def place(clock_hours: float) -> str:
        return f"{clock_hours % 12:.1f} h on a clock's face"

    if not dial.south:
        mark = dial.marks[0]
        return f"{mark.name} stands at {place(mark.clock_hours)}, {mark.radius_arcmin:.1f}′ from the pole"
    mark = dial.marks[0]
    return (
        f"{mark.name}, nearest the pole, stands at {place(mark.clock_hours)}, {mark.radius_arcmin:.0f}′ out; "
        f"match the figure of all {len(dial.marks)}"
    )


def pole_verdict(
    rig: Rig, spot: Spot, dial: Dial, setup_mjd: float, setup_sun_altitude: float, exposure_s: float, choices: Choices
) -> Verdict:
    """Axis tolerance for this rig and sub against what the chosen way of aligning reaches, and the dial at set-up."""
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    trail = tolerated_trail_px(choices.elongation_limit, rig.star_fwhm_px)
    tolerance = axis_tolerance_arcmin(trail, scale, exposure_s)
    method = method_that_suffices(tolerance)
    enough = choices.alignment_arcmin <= tolerance
    hidden = pole_hidden(spot)
    level: Level = "go" if enough and not hidden else "care"
    way = f"{method.name.lower()} will do" if method else "two photographs may just miss it: measure, adjust, measure again"
    sentence = f"Align within {arc_words(tolerance)}: {way}."
    advice = [hidden] if hidden else []
    if not enough:
        advice.append(f"You expect {arc_words(choices.alignment_arcmin)}, which trails more than you tolerate.")
    if not hidden and setup_sun_altitude > np.radians(-6):
        advice.append("At set-up the sky is still too bright for stars near the pole.")
    if rig.tracker.scope_view == "none":
        advice.append("This tracker has no polar scope; the dial shows the sky to the naked eye.")
    at = spot.moment("Set-up", setup_mjd)
    star = dial.marks[0]
    workings = (
        Working(
            "trail",
            "Tolerated trail",
            "L = σ √(12 (e² − 1)), σ = FWHM / 2.355",
            (
                Quantity("A star may lengthen to", choices.elongation_limit, "× its width", "e", 2),
                Quantity("Untrailed star", rig.star_fwhm_px, "px FWHM"),
                Quantity("Its σ", star_sigma_px(rig.star_fwhm_px), "px", "σ", 2),
            ),
            Quantity("Tolerated trail", trail, "px", "L", 2),
            "Variances of star and even trail (L²/12) add; the limit itself is common practice",
            "common practice",
        ),
        Working(
            "scale",
            "Image scale",
            "s = 206.2648 p / f",
            (Quantity("Pixel pitch", rig.camera.pitch_um, "µm", "p", 2), Quantity("Focal length", rig.lens.focal_mm, "mm", "f", 0)),
            Quantity("Image scale", scale, "″/px", "s", 2),
            "Small-angle identity",
            "definition",
        ),
        Working(
            "tolerance",
            "Axis tolerance",
            "ε = L s / (ω t)",
            (
                Quantity("Tolerated trail", trail, "px", "L", 2, working="trail"),
                Quantity("Image scale", scale, "″/px", "s", 2, working="scale"),
                Quantity("Sidereal rate", SIDEREAL_RATE_ARCSEC_S, "″/s", "ω", 3),
                Quantity("Sub", exposure_s, "s", "t", 0),
            ),
            Quantity("Axis tolerance", tolerance, "′", "ε"),
            "Drift is ω (M − P) × s: worst case ω ε for any star",
            "published",
            "Meridian case of the drift method: 1′ of azimuth gives 1″ in 3.81 min.",
        ),
        Working(
            "methods",
            "What each way of aligning leaves",
            "coarsest way whose worst result ≤ ε",
            tuple(Quantity(one.name, text=f"{arc_words(one.best_arcmin)} to {arc_words(one.worst_arcmin)}") for one in METHODS),
            Quantity("Enough", text=method.name if method else "none for certain"),
            "Typical results in the field, no source",
            "common practice",
        ),
        Working(
            "dial",
            "Stars near the pole in the scope",
            "H = ERA + λ − α; place relative to the point the axis aims at",
            (
                at,
                Quantity("Longitude, east positive", spot.longitude_deg, "°", "λ", 4),
                *(Quantity(f"{mark.name}: hour angle", mark.hour_angle_h, "h", "H", 2) for mark in dial.marks),
                *(Quantity(f"{mark.name}: polar distance", mark.polar_distance_arcmin, "′") for mark in dial.marks),
                Quantity("Refraction at the pole", dial.refraction_arcmin, "′", decimals=2),
            ),
            Quantity(f"{star.name} on the dial", star.clock_deg, "° clockwise from the top", decimals=1),
            "Hipparcos, van Leeuwen 2007; IAU 2006/2000A through ERFA; refraction Bennett 1982",
            "published",
            f"Aiming at the {dial.pole} pole; view {dial.view if dial.view != 'none' else 'of the naked eye'}.",
        ),
    )
    return Verdict(
        "Pole",
        level,
        sentence,
        f"trail of {trail:.1f} px in {exposure_s:.0f} s at {scale:.2f} ″/px",
        " ".join([*advice, f"At {spot.clock(setup_mjd)} {_where(dial)}."] if not hidden else advice),
        figures=(
            Quantity("Tolerance", tolerance, "′", working="tolerance"),
            Quantity("You expect", choices.alignment_arcmin, "′"),
            spot.moment("Set-up", setup_mjd, "dial"),
            Quantity("Pole altitude", dial.pole_altitude_deg, "°", decimals=2, working="dial"),
        ),
        limits=tuple(
            Limit(
                one.name,
                "at most",
                Quantity("leaves up to", one.worst_arcmin, "′", decimals=0),
                binds=one is method,
                note="enough" if one.worst_arcmin <= tolerance else "not enough for certain",
            )
            for one in METHODS
        ),
        workings=workings,
        caution="Never point eye, scope or lens at the Sun.",
    )
