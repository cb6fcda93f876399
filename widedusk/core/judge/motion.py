"""What the path of a run's middle among the stars says of the tracker: where it jumped, how it drifts, how its worm turns.

The fit of the worm is a sine of unknown period in the east, with drift beside it: for each period the rest is linear, so the best
is found by looking along the periods (the floating-mean periodogram of Zechmeister & Kürster 2009, A&A 496, 577, with a slope).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.sky.time import Floats

LEAST_JUMP_PX = 2.5
PERIODS_S = (150.0, 1200.0)
LEAST_POINTS = 8
SURELY_A_WORM = 0.85


@dataclass(frozen=True)
class Worm:
    """Periodic error as the middles of exposures show it, put right for how an exposure averages it.

    half_amplitude_px along the east; its sigma, and the period's, s; turns: of the worm that the run covers; phase: radians at
    the beginning of the run; surely: how much of the wander it explains, 0 to 1.
    """

    half_amplitude_px: float
    half_amplitude_sigma: float
    period_s: float
    period_sigma: float
    phase_rad: float
    turns: float
    surely: float


@dataclass(frozen=True)
class Motion:
    """jumps: frames in which the picture moved at once and stayed. drift: px a second, east and north, with sigmas.

    speed_end, speed_begin: of the drift in the last and first third. rest_px: what neither drift nor worm explains, one axis.
    """

    solved: NDArray[np.bool_]
    jumps: tuple[int, ...]
    drift_px_s: Floats
    drift_sigma: Floats
    speed_begin: float
    speed_end: float
    straight: float  # share of the way that leads one way
    worm: Worm | None
    rest_px: float
    levelled: Floats  # (n, 2): the path with jumps taken out


def jumps_in(path: Floats) -> tuple[int, ...]:
    """Frames since which the picture sits elsewhere: a step between two frames far beyond those before and after it."""
    steps = np.diff(path, axis=0)
    if len(steps) < 5:
        return ()
    found = []
    for place in range(len(steps)):
        near = [one for one in range(max(place - 4, 0), min(place + 5, len(steps))) if abs(one - place) > 1]
        around = steps[near]
        usual = np.median(around, axis=0)
        spread = 1.4826 * np.median(np.abs(around - usual), axis=0)
        off = float(np.hypot(*(steps[place] - usual)))
        if off > max(LEAST_JUMP_PX, 8.0 * float(np.hypot(*spread))):
            found.append(place)
    # A knock in the middle of an exposure moves two steps: the larger tells where it was.
    told: list[int] = []
    for place in found:
        if told and place - told[-1] == 1:
            if np.hypot(*steps[place]) > np.hypot(*steps[told[-1]]):
                told[-1] = place
        else:
            told.append(place)
    return tuple(told)


def _levelled(path: Floats, steps: Floats, jumps: tuple[int, ...]) -> Floats:
    found = path.copy()
    for place in jumps:
        near = [one for one in range(max(place - 4, 0), min(place + 5, len(steps))) if abs(one - place) > 1]
        for half in (place, place + 1) if place + 1 < len(steps) else (place,):
            found[half + 1 :] -= steps[half] - np.median(steps[near], axis=0)
    return found


def _fit(seconds: Floats, value: Floats, period: float | None) -> tuple[Floats, Floats, float]:
    """Least squares of an offset, a slope and, with a period, a sine: figures, covariance for one unit of variance, rest."""
    centred = seconds - seconds.mean()
    columns = [np.ones_like(centred), centred]
    if period is not None:
        columns += [np.sin(2 * np.pi * seconds / period), np.cos(2 * np.pi * seconds / period)]
    design = np.stack(columns, axis=1)
    found, *_ = np.linalg.lstsq(design, value, rcond=None)
    return found, np.linalg.pinv(design.T @ design), float(np.sum((value - design @ found) ** 2))


def _drawn(seconds: Floats, value: Floats, period: float) -> Floats:
    """The sine and slope that fit best, at each moment."""
    found, _, _ = _fit(seconds, value, period)
    angle = 2 * np.pi * seconds / period
    return np.asarray(found[0] + found[1] * (seconds - seconds.mean()) + found[2] * np.sin(angle) + found[3] * np.cos(angle))


def worm_of(seconds: Floats, east_px: Floats, exposure_s: float) -> Worm | None:
    """The periodic error in a path, or None where it shows none. seconds: of the middles of exposures."""
    count = seconds.size
    span = float(np.ptp(seconds)) if count else 0.0
    if count < LEAST_POINTS:
        return None
    longest = min(PERIODS_S[1], 1.6 * span)
    shortest = max(PERIODS_S[0], 2.2 * span / count, 1.05 * exposure_s)
    if longest <= shortest:
        return None
    periods = 1.0 / np.linspace(1.0 / longest, 1.0 / shortest, 400)
    _, _, plain = _fit(seconds, east_px, None)
    rests = np.array([_fit(seconds, east_px, float(one))[2] for one in periods])
    at = int(np.argmin(rests))
    fine = np.linspace(periods[max(at - 1, 0)], periods[min(at + 1, periods.size - 1)], 60)
    finer = np.array([_fit(seconds, east_px, float(one))[2] for one in fine])
    period, rest = float(fine[int(np.argmin(finer))]), float(finer.min())
    figures, _, _ = _fit(seconds, east_px, period)
    variance = rest / max(count - 5, 1)
    amplitude = float(np.hypot(figures[2], figures[3]))
    # The period's say: with it free, sine, cosine and slope of the period are fitted together.
    angle = 2 * np.pi * seconds / period
    by_period = (figures[2] * np.cos(angle) - figures[3] * np.sin(angle)) * -angle / period
    centred = seconds - seconds.mean()
    design = np.stack([np.ones_like(angle), centred, np.sin(angle), np.cos(angle), by_period], axis=1)
    spread = np.linalg.pinv(design.T @ design) * variance
    way = np.array([figures[2], figures[3]]) / max(amplitude, 1e-9)
    amplitude_sigma = float(np.sqrt(np.maximum(way @ spread[2:4, 2:4] @ way, 0.0)))
    averaged = float(np.sinc(exposure_s / period))  # of a sine over an exposure: sin(pi t / T) / (pi t / T)
    surely = 1.0 - rest / max(plain, 1e-12)
    if amplitude < 3.0 * amplitude_sigma or surely < 0.4:
        return None
    return Worm(
        amplitude / averaged,
        amplitude_sigma / averaged,
        period,
        float(np.sqrt(max(spread[4, 4], 0.0))),
        float(np.arctan2(figures[3], figures[2])),
        span / period,
        surely,
    )


def motion(seconds: Floats, exposure: Floats, path: Floats) -> Motion | None:
    """Read a path; NaN where a frame was not solved. None with fewer than four that were."""
    solved = np.asarray(np.isfinite(path).all(axis=1))
    if np.count_nonzero(solved) < 4:
        return None
    t, at = seconds[solved], path[solved]
    steps = np.diff(at, axis=0)
    jumps = jumps_in(at)
    if jumps:  # a worm that turns fast is no jump
        turning = worm_of(t, at[:, 0], float(np.median(exposure)))
        if turning is not None and turning.surely > SURELY_A_WORM:
            smooth = at.copy()
            smooth[:, 0] -= _drawn(t, at[:, 0], turning.period_s)
            jumps = jumps_in(smooth)
    level = _levelled(at, steps, jumps)
    worm = worm_of(t, level[:, 0], float(np.median(exposure)))
    drift, sigma, rests = [], [], []
    for axis in (0, 1):
        found, covariance, rest = _fit(t, level[:, axis], worm.period_s if worm and axis == 0 else None)
        variance = rest / max(t.size - len(found), 1)
        drift.append(float(found[1]))
        sigma.append(float(np.sqrt(covariance[1, 1] * variance)))
        rests.append(variance)
    third = max(t.size // 3, 2)
    begin, end = (
        float(np.hypot(*(np.polyfit(t[part], level[part], 1)[0]))) for part in (slice(0, third), slice(t.size - third, None))
    )
    way = float(np.sum(np.hypot(*np.diff(level, axis=0).T)))
    straight = float(np.hypot(*(level[-1] - level[0]))) / max(way, 1e-9)
    numbers = np.flatnonzero(solved)
    whole = np.full(path.shape, np.nan)
    whole[solved] = level
    return Motion(
        solved,
        tuple(int(numbers[one + 1]) for one in jumps),
        np.array(drift),
        np.array(sigma),
        begin,
        end,
        straight,
        worm,
        float(np.sqrt(np.mean(rests))),
        whole,
    )
