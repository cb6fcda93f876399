"""The length of one sub: every limit, the useful-signal curve, and the advice of each school.

Useful signal per hour    u(t) = keep(t) * exp(-t / tau) * t / (t + gap) * E t / (E t + R²)
                                 tracked   not spoilt      time not lost   read-noise
                                                           to gaps         efficiency

keep(t) is the share of worm phases that stay round, times the share of frames no gust falls into. tau is the mean time
between whatever else spoils a frame now and then: a knock, a cloud, a lamp, a cable.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from widedusk.core.choices import SubSchool
from widedusk.core.errors import Checks
from widedusk.core.exposure.light import ceiling_s, read_noise_share, sky_limited_s
from widedusk.core.kit.parts import Camera, IsoStep
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import tolerated_trail_px
from widedusk.core.tracking.keep_rate import Motion, keep_rates
from widedusk.core.tracking.wind import wind_keeps

DriftKey = Literal["alignment", "rotation", "untracked"]
LimitKey = Literal["periodic", "alignment", "rotation", "untracked", "wind", "chance", "ceiling"]
BindKey = LimitKey | Literal["read noise", "habit", "patience"]

# Lengths people key into a timer. Ten minutes is where one lost frame costs more than longer subs win: common practice.
KEYABLE_S: Floats = np.array(
    [1, 2, 3, 4, 5, 6, 8, 10, 15, 20, 25, 30, 40, 60, 90, 120, 150, 180, 240, 300, 360, 480, 600], dtype=float
)
RESERVE = 0.1  # of what a star may lengthen by, kept for refraction and seeing: no figure stands at the edge of a cliff. Our own
A_STOP_IS_WORTH = (
    0.03  # of useful signal: a stop of ISO costs a stop of what stars may reach, and is taken for more than that. Our own
)
FLAT_TOP = 0.01  # what comes within 1 % of the best is as good. Our own


def limit_with_reserve(tolerated: float, in_hand: float = RESERVE) -> float:
    """Long axis over width up to which a star counts as kept, something of what is tolerated kept in hand."""
    return 1.0 + (tolerated - 1.0) * (1.0 - in_hand)


@dataclass(frozen=True)
class Conditions:
    """What bears on the length of a sub, apart from the ISO."""

    background_e_s: float  # sky and dark current in one pixel
    motions: tuple[Motion, ...]  # at even moments of the window or of every axis it may be, the one with the fastest drift first
    star_fwhm_px: float
    elongation_limit: float  # that is reckoned with: limit_with_reserve() of the one tolerated
    gap_s: float
    keep_wanted: float  # tolerated keep rate, 0..1
    noise_share: float  # q
    ceiling_share: float
    gust_free_s: float = np.inf  # mean time between gusts that spoil a frame
    spoil_free_s: float = np.inf  # mean time between whatever else spoils one
    star_e_s: float = 0.0  # in the middle pixel of the faintest star that shall keep its colour; 0: none need to
    drift_by: DriftKey = "alignment"  # what makes stars drift: the axis, the turn about a guide star, or the sky itself
    worst: bool = False  # the motions are not shared out over the frames: only one of them is true, and the worst is taken

    @property
    def drift_px_s(self) -> float:
        """Speed of the drift, both directions together."""
        return self.motion.drift_speed_px_s

    @property
    def motion(self) -> Motion:
        """That of the moment with the fastest drift."""
        return self.motions[0]

    def round_share(self, exposure_s: Floats | float, **changed: float) -> Floats:
        """Share of frames that stay round, over all moments of the window, or under the worst of all motions; arrays broadcast.

        changed: of every motion.
        """
        motions = tuple(replace(one, **changed) for one in self.motions) if changed else self.motions
        held = keep_rates(
            tuple(dict.fromkeys(motions)) if self.worst else motions, exposure_s, self.star_fwhm_px, self.elongation_limit
        )
        return np.asarray(np.min(held, axis=0) if self.worst else np.mean(held, axis=0))

    def tracked(self, exposure_s: Floats | float) -> Floats:
        """Share of frames that neither trail nor meet a gust; arrays broadcast."""
        return np.asarray(self.round_share(exposure_s) * wind_keeps(exposure_s, self.gust_free_s))

    def unspoilt(self, exposure_s: Floats | float) -> Floats:
        """Share of frames that nothing else spoils: events come at random, one falls into a frame with 1 - exp(-t / tau)."""
        return np.exp(-np.asarray(exposure_s, dtype=float) / self.spoil_free_s)

    @property
    def chance_until_s(self) -> float:
        """The length at which such events alone leave the share that is wanted."""
        return -self.spoil_free_s * float(np.log(self.keep_wanted))

    def keep(self, exposure_s: Floats | float) -> Floats:
        """Share of frames that are kept, all causes together; arrays broadcast."""
        return np.asarray(self.tracked(exposure_s) * self.unspoilt(exposure_s))


@dataclass(frozen=True)
class SubAdvice:
    step: IsoStep
    exposure_s: float
    binds: BindKey
    keep: float  # all causes together
    tracked: float  # that neither trails nor meets a gust
    useful: float  # useful signal per hour, 0..1
    noise_share: float  # read noise's share at this length
    background_share: float  # of the clip level
    sky_limited_s: float
    ceiling_s: float
    keeps_until_s: float | None  # longest keyable length that still keeps enough frames; None when none does
    drift_until_s: float  # when drift alone makes the tolerated trail
    iso_is_sky_limited: bool


def useful_signal(exposure_s: Floats, keep: Floats, background_e_s: float, read_noise_e: float, gap_s: float) -> Floats:
    """Relative useful signal per hour, 0..1; arrays broadcast."""
    t = exposure_s
    return np.asarray(keep * t / (t + gap_s) * background_e_s * t / (background_e_s * t + read_noise_e**2))


@dataclass(frozen=True)
class Keeps:
    """Share of frames of every keyable length that neither trail nor meet a gust: as it is, and as if one fault of the tracker
    did not exist. The ISO has no part in it."""

    as_is: Floats
    without: dict[LimitKey, Floats]

    @classmethod
    def under(cls, conditions: Conditions) -> "Keeps":
        faults: dict[LimitKey, dict[str, float]] = {}
        if conditions.motion.pe_half_amplitude_px:
            faults["periodic"] = {"pe_half_amplitude_px": 0.0}
        if conditions.drift_px_s:
            faults[conditions.drift_by] = {"drift_px_s": 0.0, "drift_ra_px_s": 0.0}
        windy = wind_keeps(KEYABLE_S, conditions.gust_free_s)
        steady = conditions.round_share(KEYABLE_S)
        without = {key: np.asarray(conditions.round_share(KEYABLE_S, **gone) * windy) for key, gone in faults.items()}
        if np.isfinite(conditions.gust_free_s):
            without["wind"] = steady
        return cls(np.asarray(steady * windy), without)


def _useful(conditions: Conditions, step: IsoStep, tracked: Floats, below_ceiling: bool = True, chance: bool = True) -> Floats:
    """Useful signal of every keyable length for a curve of what tracks; 0 where the sky alone would fill more than its share."""
    kept = tracked * conditions.unspoilt(KEYABLE_S) if chance else tracked
    useful = useful_signal(KEYABLE_S, kept, conditions.background_e_s, step.read_noise_e, conditions.gap_s)
    if not below_ceiling:
        return useful
    ceiling = float(ceiling_s(step.full_well_e, conditions.background_e_s, conditions.ceiling_share))
    return np.asarray(np.where(max(ceiling, float(KEYABLE_S[0])) >= KEYABLE_S, useful, 0.0))


def _broken(conditions: Conditions, step: IsoStep, tracked: Floats) -> Floats:
    """How many soft limits each keyable length breaks: read noise, frames that track, colour of stars."""
    minimum = float(sky_limited_s(step.read_noise_e, conditions.background_e_s, conditions.noise_share))
    colour = step.full_well_e / (conditions.star_e_s + conditions.background_e_s)
    faults = (minimum > KEYABLE_S, tracked < conditions.keep_wanted, colour < KEYABLE_S)
    return np.asarray(np.sum(faults, axis=0))


def as_useful(conditions: Conditions, step: IsoStep, exposure_s: float) -> bool:
    """Whether this length is still as good as the most useful one at this ISO: within 1 % of it."""
    best = float(_useful(conditions, step, conditions.tracked(KEYABLE_S)).max())
    return useful_at(conditions, step, exposure_s) >= (1.0 - FLAT_TOP) * best


def useful_at(conditions: Conditions, step: IsoStep, exposure_s: float) -> float:
    """Relative useful signal per hour of one length, 0..1."""
    length = np.asarray(exposure_s)
    return float(useful_signal(length, conditions.keep(length), conditions.background_e_s, step.read_noise_e, conditions.gap_s))


def _in_flat_top(conditions: Conditions, step: IsoStep, tracked: Floats, **more: bool) -> int:
    """Place of the length at one ISO: of all within 1 % of the best those that break the fewest soft limits, of these the
    shortest."""
    useful, broken = _useful(conditions, step, tracked, **more), _broken(conditions, step, tracked)
    as_good = np.flatnonzero(useful >= (1.0 - FLAT_TOP) * useful.max())
    return int(as_good[np.argmin(broken[as_good])])


def _iso(conditions: Conditions, steps: Sequence[IsoStep], tracked: Floats) -> IsoStep:
    """Of the ISOs within 3 % of the most useful signal those that break the fewest soft limits, of these the lowest."""
    places = [_in_flat_top(conditions, step, tracked) for step in steps]
    useful = np.array([_useful(conditions, step, tracked).max() for step in steps])
    broken = np.array([_broken(conditions, step, tracked)[place] for step, place in zip(steps, places, strict=True)])
    as_good = np.flatnonzero(useful >= (1.0 - A_STOP_IS_WORTH) * useful.max())
    return steps[int(as_good[np.argmin(broken[as_good])])]


def _binding(conditions: Conditions, step: IsoStep, keeps: Keeps, advised: float) -> BindKey:
    """The constraint whose removal would lengthen the advice most; read noise when none would:
    then the advice is as short as read noise and gaps allow."""
    longer: dict[LimitKey, float] = {
        key: float(KEYABLE_S[_in_flat_top(conditions, step, keep)]) for key, keep in keeps.without.items()
    }
    longer["ceiling"] = float(KEYABLE_S[_in_flat_top(conditions, step, keeps.as_is, below_ceiling=False)])
    if np.isfinite(conditions.spoil_free_s):
        longer["chance"] = float(KEYABLE_S[_in_flat_top(conditions, step, keeps.as_is, chance=False)])
    key = max(longer, key=lambda one: longer[one])
    return key if longer[key] > advised else "read noise"


def _keyable_at_most(seconds: float) -> float:
    return float(KEYABLE_S[max(int(np.searchsorted(KEYABLE_S, seconds, side="right")) - 1, 0)])


def _keyable_at_least(seconds: float) -> float:
    return float(KEYABLE_S[min(int(np.searchsorted(KEYABLE_S, seconds, side="left")), len(KEYABLE_S) - 1)])


def _first_to_trail(conditions: Conditions, keeps: Keeps, tracks: float) -> BindKey:
    """Which fault ends the longest sub that still keeps enough: the one without which most of the next would be kept."""
    after = min(int(np.searchsorted(KEYABLE_S, tracks)) + 1, len(KEYABLE_S) - 1)
    if not keeps.without or tracks == KEYABLE_S[-1]:
        return "patience"
    return max(keeps.without, key=lambda key: float(keeps.without[key][after]))


def advise_at(
    conditions: Conditions, step: IsoStep, school: SubSchool, fixed_s: float | None = None, keeps: Keeps | None = None
) -> SubAdvice:
    """What a school advises at one ISO, with every limit worked out. `keeps` saves working out the keep curves again.

    Raises InvalidInput for the habit school without a length from 0.1 s to 1200 s.
    """
    ceiling = float(ceiling_s(step.full_well_e, conditions.background_e_s, conditions.ceiling_share))
    minimum = float(sky_limited_s(step.read_noise_e, conditions.background_e_s, conditions.noise_share))
    keeps = keeps or Keeps.under(conditions)
    kept = np.flatnonzero(keeps.as_is >= conditions.keep_wanted)
    keeps_until = float(KEYABLE_S[kept[-1]]) if kept.size else None
    drift = conditions.drift_px_s
    drift_until = tolerated_trail_px(conditions.elongation_limit, conditions.star_fwhm_px) / drift if drift > 0 else np.inf
    binds: BindKey
    if school == "best":
        exposure = float(KEYABLE_S[_in_flat_top(conditions, step, keeps.as_is)])
        binds = _binding(conditions, step, keeps, exposure)
    elif school == "sky":
        wanted = _keyable_at_least(minimum)
        exposure = min(wanted, _keyable_at_most(ceiling))
        binds = "read noise" if exposure == wanted else "ceiling"
    elif school == "tracks":
        tracks = keeps_until if keeps_until is not None else float(KEYABLE_S[0])
        exposure = min(tracks, _keyable_at_most(ceiling))
        binds = "ceiling" if exposure < tracks else _first_to_trail(conditions, keeps, tracks)
        if exposure == KEYABLE_S[-1]:
            binds = "patience"
    else:
        checks = Checks()
        if fixed_s is None:
            checks.fault("fixed_sub_s", None, "Give the length you always use, in seconds.")
        else:
            checks.within("fixed_sub_s", fixed_s, 0.1, 1200, "s")
        checks.done()
        exposure, binds = float(fixed_s or 0.0), "habit"
    return SubAdvice(
        step,
        exposure,
        binds,
        float(conditions.keep(exposure)),
        float(conditions.tracked(exposure)),
        useful_at(conditions, step, exposure),
        float(read_noise_share(step.read_noise_e, conditions.background_e_s, exposure)),
        conditions.background_e_s * exposure / step.full_well_e,
        minimum,
        ceiling,
        keeps_until,
        float(drift_until),
        minimum <= exposure,
    )


def advise(
    conditions: Conditions, camera: Camera, school: SubSchool, fixed_s: float | None = None, iso: int | None = None
) -> SubAdvice:
    """Sub length and ISO together.

    For the most useful signal the pair that gives it, stars' colour among the soft limits; for the other schools the lowest ISO
    whose read noise keeps their sub sky-limited, else the lowest within 5 % of the least read noise.
    Raises InvalidInput for an ISO that is not in the camera's table.
    """
    if iso is not None:
        return advise_at(conditions, camera.step(iso), school, fixed_s)
    keeps = Keeps.under(conditions)
    steps = sorted(camera.iso_steps, key=lambda step: step.iso)
    if school == "best":
        return advise_at(conditions, _iso(conditions, steps, keeps.as_is), school, fixed_s, keeps)
    advices = [advise_at(conditions, step, school, fixed_s, keeps) for step in steps]
    for advice in advices:
        if advice.iso_is_sky_limited:
            return advice
    quietest = min(advice.step.read_noise_e for advice in advices)
    return next(advice for advice in advices if advice.step.read_noise_e <= 1.05 * quietest)
