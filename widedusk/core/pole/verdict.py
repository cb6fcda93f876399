"""Is the axis good enough for this lens and sub, and where do the pole's stars stand when setting up?"""

import numpy as np

from widedusk.core.exposure.setting import Subject
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.dial import Dial
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.pole.tolerance import (
    METHODS,
    Tolerance,
    align_words,
    as_it_stands,
    basis_words,
    longer_words,
    pays,
    reach,
    tolerance_workings,
    way_that_suffices,
)
from widedusk.core.scene import Spot
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working


def _where(dial: Dial) -> str:
    mark = dial.marks[0]
    at = f"{mark.clock_deg:.0f}° clockwise from the top"
    if not dial.south:
        return f"{mark.name} stands {at}, {mark.radius_arcmin:.1f}′ from the pole"
    return (
        f"{mark.name}, nearest the pole, stands {at}, {mark.radius_arcmin:.0f}′ out; match the trapezium of all {len(dial.marks)}"
    )


def pole_verdict(
    subject: Subject,
    tolerance: Tolerance,
    now_s: float,
    kept: float,
    spot: Spot,
    dial: Dial,
    setup_mjd: float,
    setup_sun_altitude: float,
) -> Verdict:
    """Axis tolerance for this rig, sub and run against what is expected or known of the axis, and the dial at set-up.

    now_s: the sub that the axis leaves as it stands or is expected; kept: the share of it that stays sharp.
    """
    rig = subject.rig
    if subject.choices.tracking == "untracked":
        return Verdict("Pole", "go", align_words(subject, tolerance, None), basis_words(subject, tolerance))
    hidden = pole_hidden(spot)
    method = way_that_suffices(tolerance.arcmin, rig, hidden, subject.choices.comes_along)
    off = subject.drift.axis_arcmin
    # The tolerance is that of the worst direction; once the axis is measured, what it really keeps is known.
    serves = subject.axis == "measured" and now_s >= tolerance.exposure_s and kept >= tolerance.wanted
    enough = off <= tolerance.arcmin or serves
    fine = enough and not hidden and tolerance.true_share >= tolerance.wanted and not pays(tolerance)
    level: Level = "go" if fine else "care"
    advice = [hidden] if hidden else []
    told = as_it_stands(subject, tolerance, now_s)
    if not enough and tolerance.arcmin > 0.0 and not told:  # which says it better
        known = {"measured": "It stands", "expected": "You expect", "usual": "It is usually left within"}[subject.axis]
        advice.append(f"{known} {arc_words(off)}, more than that.")
    advice += [one for one in (told, longer_words(tolerance)) if one]
    if not hidden and setup_sun_altitude > np.radians(-6):
        advice.append("At set-up the sky is still too bright for stars near the pole.")
    if dial.view == "none":
        advice.append("This tracker has no polar scope; the dial shows the sky to the naked eye.")
    at = spot.moment("Set-up", setup_mjd)
    star = dial.marks[0]
    workings = (
        *tolerance_workings(subject, tolerance),
        Working(
            "methods",
            "What each way of aligning leaves",
            "quickest way that can be gone here and whose worst result ≤ ε",
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
        align_words(subject, tolerance, method),
        basis_words(subject, tolerance),
        " ".join([*advice, f"At {spot.clock(setup_mjd)} {_where(dial)}."] if not hidden else advice),
        figures=(
            reach("Tolerance", tolerance.arcmin, "tolerance"),
            Quantity({"measured": "It stands", "expected": "You expect", "usual": "Usually within"}[subject.axis], off, "′"),
            spot.moment("Set-up", setup_mjd, "dial"),
            Quantity("Pole altitude", dial.pole_altitude_deg, "°", decimals=2, working="dial"),
        ),
        limits=tuple(
            Limit(
                one.name,
                "at most",
                Quantity("leaves up to", one.worst_arcmin, "′", decimals=0),
                binds=one is method,
                note="enough" if one.worst_arcmin <= tolerance.arcmin else "not enough for certain",
            )
            for one in METHODS
        ),
        workings=workings,
        caution="Never point eye, scope or lens at the Sun.",
    )
