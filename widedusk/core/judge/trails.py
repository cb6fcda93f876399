"""Why stars are long: what the tracker did, what moved it, what the lens does. Each test is on what one cause alone does."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.judge.course import middle, quantile
from widedusk.core.judge.motion import Motion, Worm
from widedusk.core.judge.reading import MOVED, Finding, Mask, Read, told, until_end
from widedusk.core.sky.time import Floats

LEAST_STILL_PX = 4.0  # trail of a camera that stands still, from which it can be told
FASTER = 1.9  # speed at the end against the beginning, from which a drift is a creeping
LEAST_TURNS = 1.1  # of the worm, to call a wander periodic
BY_PATH = 0.3  # share of a trail that a cause must explain to claim it. Our own
TWICE = 0.2  # share of stars that have a second beside them, from which a picture shows everything twice. Our own
ONE_WAY = 0.01  # chance of directions so much alike, below which they are one


@dataclass(frozen=True)
class _Switch:
    """A drive that runs wrong, against the trail of a camera that stands still."""

    cause: str
    times: float
    low: float
    high: float
    words: str


@dataclass(frozen=True)
class _Rate:
    """A rate that trackers have beside the sidereal: how slow it is against that, and how near a drift must come to it."""

    slow: float
    within: float
    sure: float
    words: str


RATES = (
    # The Moon moves 13.18° a day among the stars, the Sun 0.986°. Axes that are off drift as far, so that a solar rate is not sure.
    _Rate(13.176 / 360.986, 0.12, 0.85, "the lunar rate is set"),
    _Rate(0.9856 / 360.986, 0.12, 0.6, "the solar rate is set, or the axis is off just so"),
    _Rate(0.5, 0.1, 0.9, "half of the sidereal rate is set"),
)

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
    torn |= np.nan_to_num(run.second) > max(TWICE, 2.0 * quantile(run.second, 0.5, 0.0))
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
class _Ways:
    """What the picture's own way makes of stars, variances in px², (n,): drift, as it goes on evenly; wander, of the periodic rest;
    both, together along right ascension. worm: none where the way tells of none. calm: the way without it, (n, 2); east, north: how
    it drifts, px a second; faster: its speed at the end against that at the beginning; straight: share of it that leads one way."""

    worm: Worm | None
    drift: Floats
    wander: Floats
    both: Floats
    calm: Floats
    east: float
    north: float
    faster: float
    straight: float


def _pace(calm: Floats, seconds: Floats) -> tuple[float, float]:
    """How much faster a way is at its end than at its beginning, and what share of it leads one way. calm: (n, 2), no NaN."""
    third = max(seconds.size // 3, 2)
    begin, end = (
        float(np.hypot(*np.polyfit(seconds[part], calm[part], 1)[0]))
        for part in (slice(0, third), slice(seconds.size - third, None))
    )
    length = float(np.sum(np.hypot(*np.diff(calm, axis=0).T)))
    return end / max(begin, 1e-9), float(np.hypot(*(calm[-1] - calm[0]))) / max(length, 1e-9)


def _ways(read: Read, path: Motion) -> _Ways:
    run, known, worm = read.run, path.solved, path.worm
    parts = (np.arange(21) + 0.5) / 21 - 0.5
    at = run.seconds[:, None] + run.exposure[:, None] * parts
    faster, straight = _pace(path.levelled[known], run.seconds[known])
    if worm is not None and (worm.turns < LEAST_TURNS or (straight > 0.9 and faster > FASTER)):
        worm = None  # what goes one way, ever faster, is part of no wave
    wave = np.zeros(at.shape)
    if worm is not None:
        wave = worm.half_amplitude_px * np.sin(2 * np.pi / worm.period_s * at + worm.phase_rad)
    calm = path.levelled - np.stack([wave.mean(axis=1), np.zeros(run.count)], axis=1)
    faster, straight = _pace(calm[known], run.seconds[known])
    east, north = np.polyfit(run.seconds[known], calm[known], 1)[0]
    return _Ways(
        worm,
        (np.hypot(east, north) * run.exposure) ** 2 / 12.0,
        np.asarray(np.var(wave, axis=1)),
        np.asarray(np.var(wave + east * at, axis=1)),
        calm,
        float(east),
        float(north),
        faster,
        straight,
    )


def moving(read: Read, knocked: Mask) -> list[Finding]:
    """Why frames are long that no switch and no knock explains. Each cause claims the motion that it explains and no other.

    A steady way along right ascension is a rate, one along declination the axis, what comes and goes in between the worm; what is
    long although the picture hardly moves was shaken."""
    run, path = read.run, read.motion
    long = read.long & ~knocked
    if np.count_nonzero(long) < max(2, 0.06 * run.count):
        words = "A single frame is long, and the picture sits as before."
        return [told("wind", long, 0.5, words)] if long.any() else []
    if path is None:
        return _shaken(read, long, np.zeros(run.count))
    ways = _ways(read, path)
    found = [*_worm(read, ways, long), *_drifting(read, ways, long)]
    carried = np.nan_to_num((np.hypot(*read.speed.T) * run.exposure) ** 2 / 12.0)
    explained = np.maximum(carried, ways.wander + ways.drift)
    left = long & (explained < BY_PATH * run.trail)
    if np.count_nonzero(left) >= max(2, 0.06 * run.count):
        found += _shaken(read, left, explained)
    return found


def _worm(read: Read, ways: _Ways, long: Mask) -> list[Finding]:
    """It moves fastest where stars are longest, along right ascension, by what the way itself says."""
    run, worm = read.run, ways.worm
    if worm is None:
        return []
    mine = long & (ways.wander > BY_PATH * run.trail) & np.isfinite(run.east)
    if np.count_nonzero(mine) < 2:
        return []
    solved = np.isfinite(run.east)
    seen, predicted = np.sqrt(np.maximum(run.east, 0.0)), np.sqrt(ways.both)
    agree = float(np.corrcoef(predicted[solved], seen[solved])[0, 1]) if np.count_nonzero(solved) > 4 else 0.0
    off = quantile(np.abs(seen - predicted)[mine] / predicted[mine], 0.5, 1.0)
    sideways = quantile(((run.north - ways.drift) / run.trail)[mine], 0.5, 1.0)  # but what drifts there
    if max(agree, 1.0 - 1.5 * off) < 0.5 or sideways > 0.35 or off > 0.6:
        return []
    wander = f"±{worm.half_amplitude_px:.1f} px every {worm.period_s:.0f} s"
    return [
        told(
            "worm",
            mine,
            0.5 + 0.47 * min(max(agree, 1.0 - off), worm.surely),
            f"The picture wanders along right ascension and returns, {wander}.",
            "Stars are long along right ascension just when it moves fastest.",
        )
    ]


def _drifting(read: Read, ways: _Ways, long: Mask) -> list[Finding]:
    """A way that goes on: ever faster, at the rate of another body, or as an axis off the pole makes it."""
    run = read.run
    carried = (np.hypot(*np.gradient(ways.calm, run.seconds, axis=0).T) * run.exposure) ** 2 / 12.0
    drifts = np.fmax(carried, ways.drift) if ways.faster > FASTER else ways.drift
    mine = long & (drifts > BY_PATH * run.trail)
    if np.count_nonzero(mine) < 2 or ways.straight < 0.75:
        return []
    if ways.faster > FASTER:
        words = f"At the end it moves {ways.faster:.1f} times as fast as at the beginning."
        return [told("creep", mine, min(0.5 + 0.12 * ways.faster, 0.95), "The picture creeps ever the same way.", words)]
    still_px_s = max(float(np.median(run.still_px / run.exposure)), 1e-9)
    east, north = ways.east / still_px_s, ways.north / still_px_s
    for rate in RATES:
        if abs(east - rate.slow) < rate.within * abs(rate.slow) and abs(north) < rate.within * abs(rate.slow):
            why = f"Stars leave along right ascension at {100 * east:.2f} % of their own rate: {rate.words}."
            return [told("rate", mine, rate.sure, why)]
    if ways.faster < 0.5:
        return []
    minute = 60.0 * float(np.hypot(ways.east, ways.north))
    fits = quantile((np.minimum(ways.drift, run.trail) / np.maximum(ways.drift, run.trail))[mine], 0.5, 0.0)
    words = f"The picture drifts on the same way, {minute:.1f} px a minute."
    return [told("axis", mine, 0.5 + 0.45 * fits * ways.straight, words, "Stars are as long as that drift makes them.")]


def one_way(angles_rad: Floats) -> float:
    """How likely axes so much alike are by chance, if any direction were as good as another: Rayleigh's test of the doubled angles,
    since an axis has two ends, and 1° and 179° are near each other. Source: Mardia & Jupp 2000, Directional Statistics, ch. 6."""
    length = float(np.abs(np.mean(np.exp(2j * angles_rad))))
    return float(np.exp(-angles_rad.size * length**2))


def _shaken(read: Read, left: Mask, explained: Floats) -> list[Finding]:
    """Wind and vibration: long frames between sharp ones, whose way the picture does not go."""
    run = read.run
    scattered = quantile(run.trail[left], 0.9, 0.0) > 2.5 * quantile((run.trail - explained)[run.has_stars], 0.2, 0.0)
    angles = 0.5 * np.arctan2(2 * run.slant, run.right - run.down)[left]
    chance = one_way(angles)
    if chance < ONE_WAY and (not scattered or read.motion is None):
        return []  # all alike and the picture stays, or nobody knows how it goes: no wind need have done that
    degrees = float(np.degrees(0.5 * np.angle(np.mean(np.exp(2j * angles)))) % 180.0)
    which = f"all near {degrees:.0f}° in the picture" if chance < ONE_WAY else "each another way"
    sure = (0.55 if scattered else 0.4) + 0.3 * min(np.count_nonzero(left) / 6.0, 1.0) * (1.0 if chance > ONE_WAY else 0.4)
    return [
        told(
            "wind",
            left,
            sure,
            f"Stars are long in frames between sharp ones, {which}.",
            "The picture does not wander off with them.",
        )
    ]


def of_the_field(read: Read) -> list[Finding]:
    """What differs over the picture and is the same in every frame: coma, tilt, a field that turns."""
    field, run = read.field, read.run
    if field is None or field.kind in {"", "unknown"}:
        return []
    sure = min(0.5 + 0.6 * (field.explained - max(field.runner_up, 0.0)) + 0.25 * field.explained, 0.97)
    words = {
        "coma": f"The worst corner is {field.corner_ratio:.2f} times as long as wide, away from the middle.",
        "tilt": f"Towards one side, or two opposite ones, stars are up to {field.wide_ratio:.2f} times as wide.",
        "soft corners": f"The corners are {field.wide_ratio:.2f} times as wide as the middle, all four alike.",
        "rotation": f"Stars are long around one point, the worst {field.corner_ratio:.2f} times as long as wide.",
    }[field.kind]
    return [told(field.kind, run.has_stars, sure, words, "It is the same in every frame.")]
