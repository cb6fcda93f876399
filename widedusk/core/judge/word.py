"""Keep, keep with less weight, or cull: each frame with the reason that was measured, and the weight it has in the stack.

Light of a star adds up, noise adds as its square: a stack is best when each frame, brought to one brightness, counts as the square
of its own signal to noise. For a star that is drawn out over more pixels the noise of these counts too (weights of
w = (T / (s F))², T the share of starlight, s the noise of a pixel, F the width of stars; Zackay & Ofek 2017, ApJ 836, 187, sec. 2,
for matched filters that differ in width).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from widedusk.core.judge.course import Course, quantile
from widedusk.core.judge.finding import HARMLESS
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.reading import UNKNOWN, Finding
from widedusk.core.judge.veils import as_one, step_in
from widedusk.core.sky.time import Floats

Word = Literal["keep", "less", "cull"]
LEAST_WORTH = 1 / 3  # of what a good frame brings; below it a frame costs more trouble than it brings
FULL_WORTH = 0.8  # above it a frame counts as the good ones do
WHOLE = 0.95  # share of the picture that still has stars, from which nothing stands before the sky
MOST_WORTH = 1.5  # a clearer moment brings a little more than the good frames do; what brings far more was measured wrongly
USUAL_SHARE = 0.75  # of what frames bring, from the worst: there the good ones are
DRAWS_OUT = frozenset({"worm", "axis", "stopped", "hemisphere", "rate", "creep", "rotation"})  # and does nothing else
OF_A_CAUSE = {  # that spoils a frame whatever its stars measure
    "knock": "The picture jumped while the shutter was open: stars stand in two places.",
    "out of focus": "It was out of focus: stars are too wide, or discs and rings.",
}


@dataclass(frozen=True)
class Judged:
    """word with its reasons; weight: in the stack, 1 for a good frame, 0 for a culled one; cause: key, or empty."""

    word: Word
    weight: float
    reasons: tuple[str, ...]
    cause: str


def worth(run: Course) -> Floats:
    """What each frame brings against a good one of its run, (n,); 0 where no stars stand out.

    Where the light of stars cannot be told, because all clip or none is named, their number stands for it. A part of the picture
    that has lost its stars brings nothing; and a roof, which is darker than the sky, makes no frame better than the good ones."""
    usual = max(float(np.median(run.sources)), 1.0)
    seen = np.where(run.has_stars, np.minimum(run.sources / usual, 1.0), np.nan)
    noise = run.noise / run.exposure
    whole = ~run.black & (run.unlost > WHOLE)
    noise = np.where(run.unlost > WHOLE, noise, np.maximum(noise, quantile(noise[whole], 0.5, 1e-12)))
    starlight = np.where(np.isfinite(run.clear), run.clear, seen) / np.maximum(noise, 1e-12)
    one = np.square(starlight / np.where(np.isfinite(run.width), np.maximum(run.width, 0.5), run.good_width))
    one = one * run.unlost
    good = max(quantile(one, USUAL_SHARE, 1.0), 1e-12)
    return np.where(np.isfinite(one), np.minimum(one / good, MOST_WORTH), 0.0)


def judge(run: Course, found: Sequence[Finding], limits: Limits) -> tuple[Judged, ...]:
    """The word on every frame. A run that is bad as a whole is measured against what is known of its lens and its tracker, not
    against itself alone; where nothing is known its best fifth stands for good."""
    run = as_one(run, step_in(run))
    brings = worth(run)
    turns = any(one.cause == "rotation" for one in found)
    over_all = run.field_elongation if turns else np.full(run.count, np.nan)
    cause_of = _causes(run, found, ~(np.fmax(run.elongation, over_all) <= limits.elongation))
    spoiled = {place: OF_A_CAUSE[one.cause] for one in found if one.cause in OF_A_CAUSE for place in one.frames}
    told = []
    for place in range(run.count):
        reasons = _against(run, place, limits, float(brings[place]), float(over_all[place]))
        if place in spoiled:
            reasons.insert(0, spoiled[place])
        if reasons:
            told.append(Judged("cull", 0.0, tuple(reasons), cause_of[place]))
        elif brings[place] < FULL_WORTH:
            told.append(Judged("less", round(float(brings[place]), 3), (_poor(run, place, float(brings[place])),), cause_of[place]))
        else:
            told.append(Judged("keep", round(min(float(brings[place]), 1.2), 3), (), cause_of[place]))
    return tuple(told)


def _against(run: Course, place: int, limits: Limits, brings: float, over_all: float) -> list[str]:
    """What was measured that speaks for culling a frame. over_all: elongation over the picture of a field that turns; else NaN."""
    if run.black[place]:
        return ["No stars, and the background is black."]
    if not run.has_stars[place]:
        return [f"Only {run.sources[place]:.0f} stars stand out, too few to tell their shape."]
    long, wide = float(run.elongation[place]), float(np.nan_to_num(run.width[place] / run.good_width, nan=1.0))
    reasons = []
    if over_all > max(limits.elongation, long):
        reasons.append(f"Over half the picture stars are {over_all:.2f} times as long as wide; you allow {limits.elongation:.2f}.")
    elif long > limits.elongation:
        reasons.append(f"Stars are {long:.2f} times as long as wide; you allow {limits.elongation:.2f}.")
    if wide > limits.width:
        than = "as this rig’s are in focus" if run.too_wide else "as in this run’s good frames"
        reasons.append(f"Stars are {wide:.2f} times as wide {than}; you allow {limits.width:.2f}.")
    if run.double[place]:
        times = run.sources[place] / float(np.median(run.sources))
        reasons.append(f"Stars are double: {times:.1f} times as many as in other frames, each with a part of its light.")
    if brings < LEAST_WORTH:
        reasons.append(_poor(run, place, brings))
    return reasons


def _poor(run: Course, place: int, brings: float) -> str:
    """Why a frame brings less, the heaviest reason first."""
    usual = float(np.median(run.level / run.exposure))
    light = float(run.clear[place])
    stars = "" if np.isfinite(light) else f"{run.sources[place]:.0f} stars where {np.median(run.sources):.0f} are usual"
    light = light if np.isfinite(light) else float(run.sources[place] / max(float(np.median(run.sources)), 1.0))
    sky = float(run.level[place] / run.exposure[place]) / max(usual, 1e-12)
    wide = float(np.nan_to_num(run.width[place] / run.good_width, nan=1.0))
    parts = [
        (abs(2 * np.log(max(light, 1e-3))), stars or f"{100 * light:.0f} % of the starlight"),
        (np.log(max(sky, 1.0)), f"a background {sky:.1f} times as bright as usual"),
        (2 * np.log(max(wide, 1.0)), f"stars {wide:.2f} times as wide"),
        (-np.log(max(float(run.unlost[place]), 0.01)), f"stars in {100 * run.unlost[place]:.0f} % of the picture only"),
    ]
    heaviest = [words for weight, words in sorted(parts, reverse=True) if weight > 0.1][:2]
    because = " and ".join(heaviest) or "more noise"
    return f"It brings {100 * brings:.0f} % of what a good frame of this run brings: {because}."


def _causes(run: Course, found: Sequence[Finding], long: NDArray[np.bool_]) -> list[str]:
    """The likeliest cause of each frame: of those that act on it and do what its word goes by, the surest; streaks and the unknown
    come last. long: stars are too long, or too few to tell; what only draws stars out is no reason why another brings less."""
    told, best = [""] * run.count, [(False, False, False, -1.0)] * run.count
    for one in found:
        rank = one.cause not in HARMLESS, one.cause != UNKNOWN, one.cause in OF_A_CAUSE
        for place in one.frames:
            if (long[place] or one.cause not in DRAWS_OUT) and (*rank, one.sure) >= best[place]:
                told[place], best[place] = one.cause, (*rank, one.sure)
    return told
