"""Why stars are long: what the tracker did, what moved it, what the lens does. Each test is on what one cause alone does."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.judge.course import middle, quantile
from widedusk.core.judge.motion import Worm
from widedusk.core.judge.reading import MOVED, Finding, Mask, Read, told, until_end
from widedusk.core.sky.time import Floats

LUNAR, SOLAR = 0.0366, 0.00274  # by how much of the sidereal rate those rates are slow
LEAST_STILL_PX = 4.0  # trail of a camera that stands still, from which it can be told
FASTER = 1.9  # speed at the end against the beginning, from which a drift is a creeping
LEAST_TURNS = 1.1  # of the worm, to call a wander periodic


@dataclass(frozen=True)
class _Switch:
    """A drive that runs wrong, against the trail of a camera that stands still."""

    cause: str
    times: float
    low: float
    high: float
    words: str


SWITCHES = (
    _Switch("stopped", 1.0, 0.72, 1.38, "as long as"),
    _Switch("hemisphere", 2.0, 1.6, 2.6, "twice as long as"),
    _Switch("rate", 0.5, 0.38, 0.62, "half as long as"),
)


def standing(read: Read) -> list[Finding]:
    """Stopped, turning the wrong way, or at half rate: by length of trail, and by how fast the stars leave."""
    run, still = read.run, np.maximum(read.run.still_px, 1e-6)
    speed = np.full((run.count, 2), np.nan)
    solved = np.flatnonzero(np.isfinite(run.path).all(axis=1))
    if solved.size >= 2:  # as the picture went, jumps and all: what seems one is the stopping itself
        speed[solved] = np.gradient(run.path[solved], run.seconds[solved], axis=0)
    length, leaves = run.trail_px / still, np.hypot(*speed.T) * run.exposure / still
    aside = np.abs(speed[:, 1]) * run.exposure / still  # along declination, where no switch leads
    for switch in SWITCHES:
        near = (np.abs(leaves - switch.times) < 0.15 * switch.times) & (aside < 0.2 * leaves)
        fits = ((length > switch.low) & (length < switch.high)) | (near & (length > 0.25 * switch.times))
        first = until_end(fits & (still > LEAST_STILL_PX), 0.7)
        if first is None or (switch.cause != "stopped" and first > 1):
            continue  # a switch that is wrong was so from the beginning
        frames = np.arange(run.count) >= first
        seen = leaves[frames & np.isfinite(leaves)]
        agree = float(np.mean(near[frames & np.isfinite(leaves)])) if seen.size else 0.0
        steady = quantile(seen, 0.75, 1.0) < 1.35 * quantile(seen, 0.25, 1.0)
        if seen.size >= 2 and (agree < 0.5 or not steady):
            continue
        words = [
            f"Every trail is {switch.words} a camera that stands still makes it: {quantile(length[frames], 0.5, 1.0):.2f} of it."
        ]
        if seen.size >= 2:
            words.append(f"The stars leave at {quantile(seen, 0.5, 1.0):.2f} of that rate from frame to frame.")
        return [told(switch.cause, frames & run.has_stars, 0.6 + 0.35 * agree if seen.size else 0.7, *words)]
    return []


def knocks(read: Read) -> list[Finding]:
    """Where the picture jumped: a knock, if a frame was open meanwhile; else it was moved."""
    run, path, found = read.run, read.motion, []
    usual_long, usual_clear = quantile(run.elongation, 0.5, 1.0), quantile(run.clear, 0.5, 1.0)
    # Light is in two places then, and only one of them is measured.
    torn = (read.long & (run.elongation > 1.25 * usual_long)) | run.double | (run.clear < 0.85 * usual_clear)
    for jump in path.jumps if path is not None else ():
        near = np.zeros(run.count, dtype=bool)
        near[max(jump - 1, 0) : jump + 1] = True
        before, after = run.path[max(jump - 3, 0) : max(jump - 1, 1)], run.path[jump : jump + 3]
        far = float(np.hypot(*(middle(after) - middle(before))))
        if (near & torn).any():
            words = f"The picture jumped by {far:.0f} px and stays there."
            found.append(told("knock", near & torn, 0.9, words, "Stars are double or long in that frame, not before or after it."))
        else:
            words = f"The picture sits {far:.0f} px elsewhere from here on, and no frame is trailed by it."
            found.append(told(MOVED, np.arange(run.count) == jump, 0.6, words))
    return found


@dataclass(frozen=True)
class _Trails:
    """What the long frames have in common. by_path: share of their trail that the picture's own way explains; alike: how much
    they agree on a direction, 0 to 1; along_east: share of the trail along right ascension; faster: the way at its end."""

    long: Mask
    by_path: float
    alike: float
    along_east: float
    faster: float


def _common(read: Read, long: Mask) -> _Trails:
    run, path = read.run, read.motion
    carried = (np.hypot(*read.speed.T) * run.exposure) ** 2 / 12.0
    explained = np.minimum(carried, run.trail) / np.maximum(run.trail, 1e-6)
    turn = np.exp(1j * np.arctan2(2 * run.slant, run.right - run.down))
    both = float(np.nansum(run.east[long] + run.north[long]))
    return _Trails(
        long,
        quantile(explained[long], 0.5, 0.0),
        float(np.abs(np.average(turn[long], weights=run.trail[long]))),
        float(np.nansum(run.east[long])) / max(both, 1e-9),
        path.speed_end / max(path.speed_begin, 1e-9) if path is not None else 1.0,
    )


def moving(read: Read, knocked: Mask) -> list[Finding]:
    """Why frames are long that no switch and no knock explains: the first of worm, creeping, rate, axis and wind that fits."""
    run = read.run
    long = read.long & ~knocked
    if np.count_nonzero(long) < max(2, 0.06 * run.count):
        words = "A single frame is long, and the picture sits as before."
        return [told("wind", long, 0.5, words)] if long.any() else []
    trails = _common(read, long)
    return _worm(read, trails) or _drifting(read, trails) or _shaken(read, trails)


def _predicted(read: Read, worm: Worm, drift_px_s: float) -> Floats:
    """Variance along right ascension that this worm makes in each frame, px²."""
    run, turn = read.run, 2 * np.pi / worm.period_s
    parts = (np.arange(21) + 0.5) / 21 - 0.5
    at = run.seconds[:, None] + run.exposure[:, None] * parts
    return np.asarray(np.var(worm.half_amplitude_px * np.sin(turn * at + worm.phase_rad) + drift_px_s * at, axis=1))


def _worm(read: Read, trails: _Trails) -> list[Finding]:
    path, run = read.motion, read.run
    if path is None or path.worm is None or path.worm.turns < LEAST_TURNS or (path.straight > 0.9 and trails.faster > FASTER):
        return []
    predicted = _predicted(read, path.worm, float(path.drift_px_s[0]))
    solved = np.isfinite(run.east)
    agree = float(np.corrcoef(predicted[solved], run.east[solved])[0, 1]) if np.count_nonzero(solved) > 4 else 0.0
    size = quantile(predicted[trails.long] / np.maximum(run.east[trails.long], 1e-6), 0.5, 0.0)
    if agree < 0.6 or trails.along_east < 0.7 or not 0.4 < size < 2.5:
        return []
    wander = f"±{path.worm.half_amplitude_px:.1f} px every {path.worm.period_s:.0f} s"
    return [
        told(
            "worm",
            trails.long,
            0.5 + 0.5 * min(agree, path.worm.surely),
            f"The picture wanders along right ascension and returns, {wander}.",
            "Stars are long along right ascension just when it moves fastest.",
        )
    ]


def _drifting(read: Read, trails: _Trails) -> list[Finding]:
    path, run = read.motion, read.run
    if path is None or trails.by_path < 0.45 or path.straight < 0.75:
        return []
    if trails.faster > FASTER:
        words = f"At the end it moves {trails.faster:.1f} times as fast as at the beginning."
        sure = min(0.5 + 0.12 * trails.faster, 0.95)
        return [told("creep", trails.long, sure, "The picture creeps ever the same way.", words)]
    east, north = path.drift_px_s / max(float(np.median(run.still_px / run.exposure)), 1e-9)
    for slow, words in ((LUNAR, "lunar"), (SOLAR, "solar")):
        if abs(east - slow) < 0.1 * slow and abs(north) < 0.2 * slow:
            why = f"Stars leave along right ascension at {100 * east:.2f} % of their own rate: the {words} rate is set."
            return [told("rate", trails.long, 0.85, why)]
    if trails.faster < 0.5:
        return []
    minute = 60.0 * float(np.hypot(*path.drift_px_s))
    sure = 0.5 + 0.45 * min(trails.by_path, 1.0) * path.straight
    words = f"The picture drifts on the same way, {minute:.1f} px a minute."
    return [told("axis", trails.long, sure, words, "Stars are as long as that drift makes them.")]


def _shaken(read: Read, trails: _Trails) -> list[Finding]:
    """Wind and vibration: long frames between sharp ones, whose way the picture does not go."""
    trail = read.run.trail
    scattered = quantile(trail[trails.long], 0.9, 0.0) > 2.5 * quantile(trail[read.run.has_stars], 0.2, 0.0)
    if trails.alike >= 0.75 and not (trails.by_path < 0.45 and scattered):
        return []
    words = "Stars are long in frames between sharp ones, each another way."
    return [told("wind", trails.long, 0.55 + 0.4 * (1 - trails.alike), words, "The picture does not wander off with them.")]


def of_the_field(read: Read) -> list[Finding]:
    """What differs over the picture and is the same in every frame: coma, tilt, a field that turns."""
    field, run = read.field, read.run
    if field is None or field.kind in {"", "unknown"}:
        return []
    sure = min(0.5 + 0.6 * (field.explained - max(field.runner_up, 0.0)) + 0.25 * field.explained, 0.97)
    words = {
        "coma": f"The worst corner is {field.corner_ratio:.2f} times as long as wide, away from the middle.",
        "tilt": f"One side is {field.wide_ratio:.2f} times as wide as the other.",
        "soft corners": f"The corners are {field.wide_ratio:.2f} times as wide as the middle, all four alike.",
        "rotation": f"Stars are long around one point, the worst {field.corner_ratio:.2f} times as long as wide.",
    }[field.kind]
    return [told(field.kind, run.has_stars, sure, words, "It is the same in every frame.")]
