"""The sub window: every limit as a stretch of a logarithmic time axis, the useful-signal curve above them, and one chosen length.

1 s        10 s        1 min        5 min       20 min
|-----------|-----------|------------|-----------|
////////////[ read noise small                   ]
[ periodic error held       ]////////////////////
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.exposure.light import back_of_camera, ceiling_s, clipping_magnitude, clipping_s, read_noise_share, sky_limited_s
from widedusk.core.exposure.setting import Light, overload
from widedusk.core.exposure.sub import FLAT_TOP, KEYABLE_S, BindKey, Conditions, SubAdvice, useful_signal
from widedusk.core.kit.parts import IsoStep, Rig
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import tolerated_trail_px, uniform_trail_ratio
from widedusk.core.tracking.keep_rate import keep_rate
from widedusk.core.tracking.wind import wind_keeps

SHORTEST_S, LONGEST_S = 1.0, 1200.0
AXIS_S: Floats = np.geomspace(SHORTEST_S, LONGEST_S, 97)
HALF_WAY = 0.5  # of the camera's histogram: more than is needed
USUAL_BACK = (0.25, 1.0 / 3.0)  # where the sky's peak is aimed at, by common practice

DRIFT_NAMES = {
    "alignment": "Axis drift at this target",
    "rotation": "Field rotation about the guide star",
    "untracked": "No tracker",
}

SpanKey = Literal[
    "sky", "alignment", "rotation", "untracked", "periodic", "payload", "wind", "together", "chance", "ceiling", "clipping"
]


@dataclass(frozen=True)
class Span:
    """Where one limit leaves the sub free: from from_s on, up to to_s, either may lie beyond the axis. None: nowhere bounded."""

    key: SpanKey
    name: str
    from_s: float | None
    to_s: float | None
    binds: bool
    words: str
    working: str  # key of the working that derives it


@dataclass(frozen=True)
class Curve:
    """Along the axis: useful signal per hour against the best (0..1), share of frames kept, where the sky stands."""

    seconds: Sequence[float]
    useful: Sequence[float]
    keep: Sequence[float]
    top_from_s: float
    top_to_s: float  # between them useful signal is within 1 % of the best
    best: float  # useful signal at the top, as a share of an ideal hour


@dataclass(frozen=True)
class Reading:
    """What one length of sub means."""

    exposure_s: float
    useful: float  # against the best, 0..1
    keep: float  # all causes together
    tracked: float  # that neither trails nor meets a gust
    round_keep: float  # without the wind
    noise_share: float
    background_e: float
    background_share: float  # of the clip level
    back_share: float  # along the camera's own histogram
    back_words: str
    raw_level: float  # above black, in the file's counts
    clip_mag: float | None  # stars brighter than this clip; None: every one does
    elongation: float  # of a star under drift alone


@dataclass(frozen=True)
class SubWindow:
    spans: Sequence[Span]
    curve: Curve
    reading: Reading


def _holds_until(keep: Floats, wanted: float) -> float | None:
    """Where a falling curve over AXIS_S leaves what is wanted for good; None when it never does."""
    enough = np.flatnonzero(keep >= wanted)
    if enough.size == 0:
        return 0.0
    last = int(enough[-1])
    if last == len(AXIS_S) - 1:
        return None
    share = (keep[last] - wanted) / max(keep[last] - keep[last + 1], 1e-12)
    return float(np.exp(np.log(AXIS_S[last]) + share * (np.log(AXIS_S[last + 1]) - np.log(AXIS_S[last]))))


def _back_words(share: float, clipped: bool) -> str:
    if clipped:
        return "at the right edge: the sky alone clips"
    if share > HALF_WAY:
        return "past the middle: more than is needed, and stars lose colour"
    if share > USUAL_BACK[1] + 0.02:
        return "between a third and the middle"
    if share >= USUAL_BACK[0] - 0.02:
        return "a quarter to a third from the left, as is usually aimed at"
    if share >= 0.1:
        return "left of a quarter: right for a dark sky where read noise is small"
    return "at the left edge"


def read(
    rig: Rig,
    light: Light,
    wanted: Conditions,
    step: IsoStep,
    exposure_s: float,
    best: float | None = None,
    round_keep: float | None = None,
) -> Reading:
    """Read one length out. round_keep: the share that stays round, where it is known already.

    Raises InvalidInput for a length that no timer keys.
    """
    checks = Checks()
    checks.within("exposure_s", exposure_s, 0.1, LONGEST_S, "s")
    checks.done()
    round_keep = float(wanted.round_share(exposure_s)) if round_keep is None else round_keep
    tracked = round_keep * float(wind_keeps(exposure_s, wanted.gust_free_s))
    keep = tracked * float(wanted.unspoilt(exposure_s))
    useful = float(useful_signal(np.asarray(exposure_s), np.asarray(keep), light.background_e_s, step.read_noise_e, wanted.gap_s))
    background = light.background_e_s * exposure_s
    share = background / step.full_well_e
    back = float(back_of_camera(share))
    magnitude = float(clipping_magnitude(exposure_s, step.full_well_e, light.background_e_s, wanted.star_fwhm_px, light.star0_e_s))
    top = best if best is not None else _best(light, wanted, step)
    return Reading(
        exposure_s,
        min(useful / top, 1.0) if top > 0 else 0.0,
        keep,
        tracked,
        round_keep,
        float(read_noise_share(step.read_noise_e, light.background_e_s, exposure_s)),
        background,
        share,
        back,
        _back_words(back, share >= 1.0),
        share * (2.0**rig.camera.bits - 1.0),
        magnitude if np.isfinite(magnitude) else None,
        float(uniform_trail_ratio(wanted.drift_px_s * exposure_s, wanted.star_fwhm_px)),
    )


def _best(light: Light, wanted: Conditions, step: IsoStep) -> float:
    """At the best of the lengths that are advised: what is advised stands in the shade that says so."""
    return float(useful_signal(KEYABLE_S, wanted.keep(KEYABLE_S), light.background_e_s, step.read_noise_e, wanted.gap_s).max())


def sub_window(rig: Rig, light: Light, wanted: Conditions, advice: SubAdvice, exposure_s: float, star_mag: float) -> SubWindow:
    """Spans, curve and the reading of one length."""
    step = advice.step
    keep = wanted.keep(AXIS_S)
    useful = useful_signal(AXIS_S, keep, light.background_e_s, step.read_noise_e, wanted.gap_s)
    best = _best(light, wanted, step)
    relative = np.minimum(useful / best, 1.0) if best > 0 else np.zeros_like(useful)
    top = np.flatnonzero(relative >= min(1.0 - FLAT_TOP, float(relative.max())))  # a peak may stand between two of the axis
    curve = Curve(
        np.round(AXIS_S, 3).tolist(),
        np.round(relative, 4).tolist(),
        np.round(keep, 4).tolist(),
        float(AXIS_S[top[0]]),
        float(AXIS_S[top[-1]]),
        best,
    )
    return SubWindow(spans(rig, light, wanted, advice, star_mag), curve, read(rig, light, wanted, step, exposure_s, best))


def spans(rig: Rig, light: Light, wanted: Conditions, advice: SubAdvice, star_mag: float) -> tuple[Span, ...]:
    """Every limit, those that ask for a longer sub first, then from the one that ends first. The one account of every page.

    A limit binds where it is what decides and the advised length reaches it: where a longer one would still be within it, the
    reason is told in words (exposure/verdict.py).
    """
    step, kept_words = advice.step, f"{wanted.keep_wanted * 100:.0f} % of frames kept"
    shorter = [float(one) for one in KEYABLE_S if one < advice.exposure_s]
    longer = [float(one) for one in KEYABLE_S if one > advice.exposure_s]

    def to(key: SpanKey, name: str, until: float | None, decides: Sequence[BindKey], words: str, working: str) -> Span:
        reached = until is not None and (not longer or until < longer[0])
        return Span(key, name, None, until, advice.binds in decides and reached, words, working)

    minimum = float(sky_limited_s(step.read_noise_e, light.background_e_s, wanted.noise_share))
    needed = advice.binds == "read noise" and (not shorter or minimum > shorter[-1])
    small = f"adds {wanted.noise_share * 100:.0f} % or less"
    found = []
    motion, limit = wanted.motion, (wanted.star_fwhm_px, wanted.elongation_limit)
    if wanted.drift_px_s > 0:
        trail = tolerated_trail_px(wanted.elongation_limit, wanted.star_fwhm_px)
        words = f"trail within {trail:.1f} px"
        found.append(
            to(wanted.drift_by, DRIFT_NAMES[wanted.drift_by], trail / wanted.drift_px_s, [wanted.drift_by], words, "drift")
        )
    if motion.pe_half_amplitude_px > 0:
        strain = overload(rig)
        easy = replace(motion, pe_half_amplitude_px=motion.pe_half_amplitude_px / strain, drift_px_s=0.0, drift_ra_px_s=0.0)
        held = _holds_until(keep_rate(easy, AXIS_S, *limit), wanted.keep_wanted)
        found.append(to("periodic", "Periodic error", held, ["periodic"] if strain == 1.0 else [], kept_words, "keep"))
        if strain > 1.0:
            loaded = replace(easy, pe_half_amplitude_px=motion.pe_half_amplitude_px)
            held = _holds_until(keep_rate(loaded, AXIS_S, *limit), wanted.keep_wanted)
            words = f"{kept_words}, errors {strain:.2f} times as large"
            found.append(to("payload", "Payload over 60 %", held, ["periodic"], words, "payload"))
    if np.isfinite(wanted.gust_free_s):
        until = -wanted.gust_free_s * float(np.log(wanted.keep_wanted))
        found.append(to("wind", "Wind", until, ["wind"], kept_words, "wind"))
    if len(found) > 1:
        held = _holds_until(wanted.tracked(AXIS_S), wanted.keep_wanted)
        found.append(to("together", "All tracking together", held, [wanted.drift_by, "periodic", "wind"], kept_words, "keep"))
    if np.isfinite(wanted.spoil_free_s):
        found.append(to("chance", "Knock, cloud or lamp", wanted.chance_until_s, ["chance"], kept_words, "keep"))
    ceiling = float(ceiling_s(step.full_well_e, light.background_e_s, wanted.ceiling_share))
    words = f"{wanted.ceiling_share * 100:.0f} % of the clip level"
    found.append(to("ceiling", "Sky below its ceiling", ceiling, ["ceiling"], words, "ceiling"))
    clips = clipping_s(star_mag, step.full_well_e, light.background_e_s, wanted.star_fwhm_px, light.star0_e_s)
    found.append(to("clipping", "Star colour", clips, [], f"magnitude {star_mag:g} just clips", "clipping"))
    found.sort(key=lambda one: np.inf if one.to_s is None else one.to_s)
    return (Span("sky", "Read noise small", minimum, None, needed, small, "sky_limited"), *found)
