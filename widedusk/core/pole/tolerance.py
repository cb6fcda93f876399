"""How exact the alignment must be for this lens, sub, target and run, and which way of aligning is enough.

Three limits, and the smallest binds: frames stay sharp, reckoned by the same keep rate as exposures are; the field does not
wander out of the frame between the first and the last of them; and the sub remains as useful as any other.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np

from widedusk.core.choices import ComesAlong
from widedusk.core.exposure.setting import (
    DIRECTIONS,
    Light,
    Subject,
    conditions,
    drift_towards,
    expected_drifts,
    motion_of,
    overload,
    star_width_px,
)
from widedusk.core.exposure.sub import FLAT_TOP, KEYABLE_S, RESERVE, SubAdvice, as_useful, limit_with_reserve, useful_at
from widedusk.core.kit.optics import field_of_view_rad, image_scale_arcsec_px
from widedusk.core.kit.parts import IsoStep, Rig
from widedusk.core.pole.axis import arc_words
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S, SIDEREAL_RATE_RAD_S
from widedusk.core.tracking.keep_rate import Motion, shares
from widedusk.core.tracking.wind import gust_free_s, wind_keeps
from widedusk.core.verdict import Quantity, Working, duration_words

ARCMIN_PER_RADIAN = 3437.746770784939
LARGEST_ARCMIN = 1800.0  # an axis farther off is none
TRIED_ARCMIN = np.geomspace(0.05, LARGEST_ARCMIN, 32)
STANDS_STILL = "The camera stands still: there is no axis to align."
OF_TRUE = 0.95  # of what a true axis keeps, where even that keeps less than is wanted. Our own
GAIN_PAYS = 0.03  # of useful signal: as much as a stop of ISO is taken for. Our own
LEAST_SHARE = 0.05  # of frames; a sub of which a true axis keeps less is no sub


@dataclass(frozen=True)
class Method:
    """A way to align and the axis error it is known to leave, best and worst, in arcminutes; and how long it takes."""

    name: str
    best_arcmin: float
    worst_arcmin: float
    key: str
    minutes: int  # from start to locked screws, with a little practice
    needs_pole: bool = False  # the pole must be in sight
    needs_computer: bool = False  # pictures must be measured


# From the coarsest to the finest. Figures are common practice, no source; phone compasses can be 10-20° wrong.
METHODS = (
    Method("Compass and latitude scale", 60.0, 300.0, "rough", 5),
    Method("Sighting along the axis at the pole", 30.0, 60.0, "sight", 5, True),
    Method("Stars set on the polar scope's dial", 2.0, 6.0, "scope", 10, True),
    Method("Drift of two stars", 1.0, 2.0, "drift", 30),
    Method("Two photographs", 0.3, 1.0, "photographs", 8, needs_computer=True),
)


REACHED_ARCMIN = min(one.worst_arcmin for one in METHODS)  # no way of aligning is sure to do better


@dataclass(frozen=True)
class OtherSub:
    """Another length than the one a tolerance belongs to, the axis it needs, and what it brings."""

    exposure_s: float
    arcmin: float
    gain: float | None  # of useful signal per hour on an axis on the pole, 0.05 is 5 % more; None where there is none to compare


@dataclass(frozen=True)
class Tolerance:
    """The largest axis error that serves one sub and one run; LARGEST_ARCMIN where it does not matter, 0 where none serves."""

    arcmin: float  # the smallest of the limits
    sharp_arcmin: float  # in the worst direction about the pole
    random_arcmin: float  # the same in a direction at random: the mean over all
    framing_arcmin: float
    best_arcmin: float  # up to which the sub remains as useful as any
    exposure_s: float
    run_s: float
    share: float  # of frames that stay sharp at sharp_arcmin
    true_share: float  # that a true axis keeps
    wanted: float
    shift_percent: float  # of the frame's short side that the field may wander over the run
    short_deg: float  # that side
    longer: OtherSub | None = None  # that a better axis would allow
    easier: OtherSub | None = None  # the longest for which some way of aligning is sure to do, where none is for this one

    @property
    def binds(self) -> Literal["sharp", "framing", "best", "nothing"]:
        if self.arcmin >= LARGEST_ARCMIN:
            return "nothing"
        if self.framing_arcmin <= self.arcmin:
            return "framing"
        return "sharp" if self.sharp_arcmin <= self.arcmin else "best"


def wander_rad(axis_arcmin: Floats | float, run_s: float) -> Floats:
    """How far the field wanders over a run, at most: the axis carries it around a pole that is not the sky's, 2 e sin(w T / 2)."""
    turned = min(SIDEREAL_RATE_RAD_S * run_s / 2.0, np.pi / 2.0)
    return np.asarray(2.0 * np.asarray(axis_arcmin) / ARCMIN_PER_RADIAN * np.sin(turned))


@lru_cache(maxsize=512)
def _largest(
    units: tuple[Motion, ...], lag_px_s: float, worst: bool, exposure_s: float, fwhm_px: float, limit: float, share: float
) -> float:
    """The largest axis error in arcminutes up to which the share stays round.

    units: the motion under 1′ in each direction; lag_px_s: along right ascension, to be taken 1 - cos(e) times.
    """
    pe = Motion(units[0].pe_half_amplitude_px, units[0].pe_period_s, 0.0)
    d, r = (np.array([getattr(one, name) for one in units]) for name in ("drift_px_s", "drift_ra_px_s"))

    def spare(arcmin: Floats) -> Floats:
        off = np.radians(np.asarray(arcmin) / 60.0)
        times, lag = np.sin(off) / np.sin(np.radians(1.0 / 60.0)), np.outer(lag_px_s * (1.0 - np.cos(off)), np.ones(len(units)))
        along = np.outer(times, r)
        found = shares(pe, np.outer(times, d).ravel(), (along + np.copysign(lag, along)).ravel(), exposure_s, fwhm_px, limit)
        each = found.reshape(len(arcmin), len(units))
        return np.asarray(np.where(worst, each.min(axis=1), each.mean(axis=1)) - share)

    kept = spare(TRIED_ARCMIN) >= 0.0
    if kept.all():
        return LARGEST_ARCMIN
    first = int(np.argmin(kept))
    low, high = (float(TRIED_ARCMIN[first - 1]) if first else 0.0), float(TRIED_ARCMIN[first])
    for _ in range(5):
        tried = np.linspace(low, high, 8)
        ends = int(np.argmin(np.append(spare(tried[1:]) >= 0.0, False)))
        low, high = float(tried[ends]), float(tried[min(ends + 1, 7)])
    return low


def _whatever_the_axis(subject: Subject) -> Subject:
    """The same for every axis that is known or expected, so that it can be a key."""
    return replace(subject, drifts=(), axis="expected", choices=replace(subject.choices, alignment_arcmin=1.0))


@lru_cache(maxsize=512)
def _best_up_to(subject: Subject, light: Light, step: IsoStep, exposure_s: float, most_arcmin: float) -> float:
    """The largest axis error, at most most_arcmin, with which this length still is as useful as any."""
    dec = float(np.radians(subject.target.dec_deg))

    def still(arcmin: float) -> bool:
        off = replace(subject, drifts=expected_drifts(arcmin, dec), axis="expected")
        return as_useful(conditions(off, light), step, exposure_s)

    if still(most_arcmin):
        return LARGEST_ARCMIN
    low, high = 0.0, most_arcmin
    for _ in range(9):
        middle = (low + high) / 2.0
        low, high = (middle, high) if still(middle) else (low, middle)
    return low


def axis_tolerance(
    subject: Subject, exposure_s: float, run_s: float, in_hand: float = RESERVE, useful: tuple[Light, IsoStep] | None = None
) -> Tolerance:
    """The largest axis error at which the wanted share of frames of a length stays sharp and the field stays in the frame.

    Worm, drift of this target and wind together, a share of the limit kept in hand. run_s: from the first frame to the last.
    useful: where the sub is the most useful one, light and ISO by which it is; the tolerance keeps it that.
    """
    rig, choices = subject.rig, subject.choices
    short_rad = float(field_of_view_rad(rig.camera.height_mm, rig.lens.focal_mm))
    short = float(np.degrees(short_rad))
    dec = float(np.radians(subject.target.dec_deg))
    units = tuple(motion_of(subject, drift_towards(1.0, float(one), dec))[0] for one in DIRECTIONS)
    fwhm = star_width_px(rig, choices)
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    lag = SIDEREAL_RATE_ARCSEC_S * float(np.cos(dec)) / scale if choices.tracking == "tracked" else 0.0
    gust_free = gust_free_s(choices.wind_level, scale)
    limit = limit_with_reserve(choices.elongation_limit, in_hand)
    calm = float(wind_keeps(exposure_s, gust_free))
    still = Motion(units[0].pe_half_amplitude_px, units[0].pe_period_s, 0.0)
    true_share = calm * float(shares(still, np.zeros(1), np.zeros(1), exposure_s, fwhm, limit)[0])
    wanted = choices.keep_percent / 100.0
    share = min(wanted, OF_TRUE * true_share)
    shift = choices.shift_percent / 100.0 * short_rad
    if choices.tracking == "untracked":
        most = (LARGEST_ARCMIN,) * 5
        return Tolerance(*most, exposure_s, run_s, share, true_share, wanted, choices.shift_percent, short)
    framing = LARGEST_ARCMIN
    if choices.tracking != "guided" and run_s > 0:
        framing = min(float(shift / wander_rad(1.0, run_s)), LARGEST_ARCMIN)
    if true_share < LEAST_SHARE:
        sharp = at_random = 0.0
    else:
        sharp, at_random = (_largest(units, lag, worst, exposure_s, fwhm, limit, round(share / calm, 6)) for worst in (True, False))
    least = min(sharp, framing)
    best = LARGEST_ARCMIN
    if useful is not None and least > 0.0:
        best = _best_up_to(_whatever_the_axis(subject), *useful, exposure_s, least)
    limits = (min(least, best), sharp, at_random, framing, best)
    return Tolerance(*limits, exposure_s, run_s, share, true_share, wanted, choices.shift_percent, short)


def card_tolerance(
    subject: Subject, light: Light, served: SubAdvice, hoped: SubAdvice, run_s: float, in_hand: float = RESERVE
) -> Tolerance:
    """The tolerance for the sub of a card, and beside it the subs that a better or a worse axis would call for.

    served: the sub of the card as the person plans it, or the longer one that the axis allows as it stands; hoped: that of an axis
    on the pole. An axis that turns out worse so cannot loosen its own tolerance.
    """
    by_use = subject.choices.sub_school == "best"
    dec = float(np.radians(subject.target.dec_deg))
    on_pole = conditions(replace(subject, drifts=(drift_towards(0.0, 0.0, dec),)), light)

    def of(sub_s: float, step: IsoStep, by_use: bool) -> Tolerance:
        return axis_tolerance(subject, sub_s, run_s, in_hand, (light, step) if by_use else None)

    def first_within_reach(lengths: Floats, step: IsoStep, least_share: float) -> OtherSub | None:
        for one in lengths[::-1]:
            needs = of(float(one), step, False)
            if needs.arcmin >= REACHED_ARCMIN and needs.true_share >= least_share:
                gain = useful_at(on_pole, step, float(one)) / served.useful - 1.0 if served.useful else None
                return OtherSub(float(one), needs.arcmin, gain)
        return None

    found = of(served.exposure_s, served.step, by_use)
    if subject.choices.tracking == "untracked":
        return found
    longer = easier = None
    if hoped.exposure_s > served.exposure_s:
        between = KEYABLE_S[(served.exposure_s < KEYABLE_S) & (hoped.exposure_s >= KEYABLE_S)]
        longer = first_within_reach(between, hoped.step, 0.0)
        if longer is not None and longer.gain is not None and longer.gain <= FLAT_TOP:
            longer = None
    if found.arcmin < REACHED_ARCMIN:
        shorter = KEYABLE_S[served.exposure_s > KEYABLE_S]
        easier = first_within_reach(shorter, served.step, subject.choices.keep_percent / 100.0)
    return replace(found, longer=longer, easier=easier)


def way_that_suffices(tolerance_arcmin: float, rig: Rig, pole_hidden: str, along: ComesAlong) -> Method | None:
    """The quickest way that is sure to reach it and can be gone here; None when none is sure. The one rule of every page."""
    enough = [one for one in METHODS if one.worst_arcmin <= tolerance_arcmin and not why_not(one, rig, pole_hidden, along)]
    return min(enough, key=lambda one: one.minutes, default=None)


def why_not(method: Method, rig: Rig, pole_hidden: str, along: ComesAlong) -> str:
    """Empty when a way can be gone with this tracker at this spot; else why not.

    pole_hidden: why the pole cannot be seen; along: what comes along, by which pictures can be measured or not.
    """
    if method.needs_pole and pole_hidden:
        return pole_hidden
    if rig.tracker is None:
        return STANDS_STILL
    if method.key == "scope" and rig.tracker.scope_view == "none":
        return "This tracker has no polar scope."
    if method.needs_computer and along == "phone":
        return "A phone alone cannot measure photographs; bring a laptop, or go where there is a connection."
    return ""


def reach(name: str, arcmin: float, working: str = "") -> Quantity:
    """An axis error as a figure; in words where nothing bounds it."""
    if arcmin >= LARGEST_ARCMIN:
        return Quantity(name, text="no limit", working=working)
    return Quantity(name, arcmin, "′", decimals=1, working=working)


def tolerance_workings(subject: Subject, tolerance: Tolerance) -> tuple[Working, ...]:
    """How the tolerance comes about: keys "tolerance", "sharp" and "framing"."""
    rig, choices = subject.rig, subject.choices
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    if rig.tracker is None or choices.tracking == "untracked":
        return ()
    worm = rig.tracker.pe_half_amplitude_arcsec * overload(rig)
    return (
        Working(
            "tolerance",
            "Axis tolerance",
            "the smallest of what keeps frames sharp, the field in the frame, and the sub as useful as any",
            (
                reach("Frames stay sharp", tolerance.sharp_arcmin, "sharp"),
                reach("The field stays in the frame", tolerance.framing_arcmin, "framing"),
                reach("The sub stays as useful as any", tolerance.best_arcmin),
            ),
            reach("Axis tolerance", tolerance.arcmin),
            "The limits are worked out beside",
            "definition",
            f"For {_subs(tolerance.exposure_s).lower()}, those of the timer card. {longer_words(tolerance)}".strip(),
        ),
        Working(
            "sharp",
            "Until when frames stay sharp",
            "largest ε with keep rate(worm, drift, wind) ≥ share wanted; drift (ω ε sin δ cos φ, ω ε sin φ), the worst φ",
            (
                Quantity("Sub", tolerance.exposure_s, "s", "t", 0),
                Quantity("Share wanted", tolerance.wanted * 100, "%", decimals=0),
                Quantity("Share a true axis keeps", tolerance.true_share * 100, "%", decimals=0),
                Quantity("Share asked for here", tolerance.share * 100, "%", decimals=0),
                Quantity("Elongation of a star, at most", choices.elongation_limit, "× its width", "e", 2),
                Quantity("Worm, half of peak to peak, as loaded", worm, "″", "A", 1),
                Quantity("Worm period", rig.tracker.pe_period_s, "s", "T", 0),
                Quantity("Declination", subject.target.dec_deg, "°", "δ", 1),
                Quantity("Image scale", scale, "″/px", "s", 2),
                Quantity("Untrailed star", rig.star_fwhm_px, "px FWHM"),
                reach("In a direction at random", tolerance.random_arcmin),
            ),
            reach("Sharp up to", tolerance.sharp_arcmin),
            "Drift is ω (M − P) × s; the keep rate is that of Exposure. The limit and the share are common practice",
            "published",
            f"{RESERVE * 100:.0f} % of the tolerated elongation is kept as a reserve. Where even a true axis keeps less than is "
            f"wanted, {OF_TRUE * 100:.0f} % of what it keeps is asked for.",
        ),
        Working(
            "framing",
            "Until when the field stays in the frame",
            "2 ε sin(ω T / 2) = share × short side",
            (
                Quantity("First frame to last", tolerance.run_s / 3600.0, "h", "T", 1),
                Quantity("Short side of the frame", tolerance.short_deg, "°", decimals=2),
                Quantity("It may wander by", tolerance.shift_percent, "% of it", decimals=1),
            ),
            reach("In the frame up to", tolerance.framing_arcmin),
            "Rotation about the axis against the rotation about the pole; the share is a habit, set under “How”",
            "definition",
            "Frame anew after a while, and this limit moves out.",
        ),
    )


def align_words(subject: Subject, tolerance: Tolerance, method: Method | None) -> str:
    """What to reach and which way is enough, in one sentence; in a second the sub that would do where no way is."""
    if subject.choices.tracking == "untracked":
        return STANDS_STILL
    if tolerance.binds == "nothing":
        return "Any axis will do: nothing here asks for a better one."
    easier = tolerance.easier
    instead = f" {_subs(easier.exposure_s)} need only {arc_words(easier.arcmin)}." if easier else ""
    if tolerance.arcmin <= 0.0:
        length = duration_words(tolerance.exposure_s)
        return f"No axis is good enough for {length}: the worm and the wind alone trail the stars.{instead}"
    way = f"{method.name[0].lower() + method.name[1:]} will do" if method else "no way is sure to reach it; measure, turn, measure"
    return f"Align within {arc_words(tolerance.arcmin)}: {way}.{'' if method else instead}"


def _subs(exposure_s: float) -> str:
    return f"Subs of {duration_words(exposure_s)}"


def pays(tolerance: Tolerance) -> bool:
    """Whether a better axis would bring so much that one should go for it."""
    return tolerance.longer is not None and (tolerance.longer.gain is None or tolerance.longer.gain > GAIN_PAYS)


def longer_words(tolerance: Tolerance) -> str:
    """What a better axis would bring; empty where it would bring nothing worth telling."""
    longer = tolerance.longer
    if longer is None:
        return ""
    gain = "" if longer.gain is None else f": up to {longer.gain * 100:.0f} % more useful light"
    return f"Within {arc_words(longer.arcmin)}, subs of {duration_words(longer.exposure_s)} become possible{gain}."


def basis_words(subject: Subject, tolerance: Tolerance) -> str:
    """What that accuracy buys."""
    if subject.choices.tracking == "untracked":
        return "no tracker in use"
    if tolerance.binds == "framing":
        return f"the field stays within {tolerance.shift_percent:g} % of the frame for {duration_words(tolerance.run_s)}"
    if tolerance.binds == "nothing":
        return "a lens so wide that nothing trails"
    if tolerance.binds == "best":
        return f"keeps {duration_words(tolerance.exposure_s)} as useful as any sub, in the worst direction"
    return f"keeps {tolerance.share * 100:.0f} % of {duration_words(tolerance.exposure_s)} subs sharp, in the worst direction"


def as_it_stands(subject: Subject, tolerance: Tolerance, now_s: float) -> str:
    """The sub that the axis leaves where it is shorter than the one planned; empty where it is not. now_s: that is taken now."""
    told = []
    if 0.0 < tolerance.true_share < tolerance.wanted:
        length = duration_words(tolerance.exposure_s)
        told.append(f"Even an axis on the pole keeps only {tolerance.true_share * 100:.0f} % of {length} subs.")
    if now_s != tolerance.exposure_s:
        stands = f"As it stands, {arc_words(subject.drift.axis_arcmin)} off,"
        how = "As it is usually left" if subject.axis == "usual" else stands
        told.append(f"{how} it is {duration_words(now_s)}, not {duration_words(tolerance.exposure_s)}.")
    return " ".join(told)
