"""What the path of a run's middle among the stars says of the tracker: where it jumped, how it drifts, how its worm turns.

The fit of the worm is a sine of unknown period in the east, with drift beside it: for each period the rest is linear, so the best
is found by looking along the periods (the floating-mean periodogram of Zechmeister & Kürster 2009, A&A 496, 577, with a slope).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, stdtrit

from widedusk.core.sky.time import Floats

LEAST_JUMP_PX = 2.5
PERIODS_S = (150.0, 1200.0)
LEAST_POINTS = 8
MOST_JUMPS = 30
NIGHT_S = 54_000.0  # of a longer run the worm is told by the first fifteen hours
FINENESS = 5  # periods looked at for each turn that the longest run tells from the next
MOST_AT_ONCE = 2_000_000  # numbers of a wave, for memory's sake
SURELY_A_WORM = 0.85
SHAPE_ORDERS, LEAST_SHAPE_TURNS = (2, 3), 2.0
OVERTONE, ROUNDS = 0.2, 4  # of the amplitude, usual of what turns two or three times as fast; rounds of a fit. Our own
LEAST_LEFT = 0.3  # of an overtone after an exposure has averaged it
NO_BREAKS: Floats = np.array([])


@dataclass(frozen=True)
class Overtone:
    """What turns `order` times as fast as the worm, as a worm or gear that is not round makes it; px along the east, with sigma.
    Phases are left out: they differ whenever the worm is started."""

    order: int
    half_amplitude_px: float
    sigma_px: float


@dataclass(frozen=True)
class Worm:
    """Periodic error as the middles of exposures show it, put right for how an exposure averages it.

    half_amplitude_px along the east; its sigma, and the period's, s; turns: of the worm that the run covers; phase: radians at
    the beginning of the run; surely: how much of the wander it explains, 0 to 1. overtones: its shape, where the run tells it.
    """

    half_amplitude_px: float
    half_amplitude_sigma: float
    period_s: float
    period_sigma: float
    phase_rad: float
    turns: float
    surely: float
    overtones: tuple[Overtone, ...] = ()


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
    # Each step against those two to four before and after it.
    padded = np.pad(steps, ((4, 4), (0, 0)), constant_values=np.nan)
    around = np.lib.stride_tricks.sliding_window_view(padded, 9, axis=0)[..., [0, 1, 2, 6, 7, 8]]
    usual = np.nanmedian(around, axis=-1)
    spread = 1.4826 * np.nanmedian(np.abs(around - usual[..., None]), axis=-1)
    # Either axis alone tells it: a worm wanders along one of them only.
    found = np.flatnonzero((np.abs(steps - usual) > np.maximum(LEAST_JUMP_PX, 8.0 * spread)).any(axis=1))
    if found.size > MOST_JUMPS:  # framed anew again and again: the largest tell enough
        off = np.max(np.abs(steps - usual), axis=1)
        found = np.sort(found[np.argsort(off[found])[-MOST_JUMPS:]])
    # A knock in the middle of an exposure moves two steps: the larger tells where it was.
    told: list[int] = []
    for place in found:
        if told and place - told[-1] == 1:
            if np.hypot(*steps[place]) > np.hypot(*steps[told[-1]]):
                told[-1] = int(place)
        else:
            told.append(int(place))
    return tuple(told)


def _design(seconds: Floats, period: float | None, breaks: Floats) -> Floats:
    """Columns of an offset, a slope, a step at each break, and with a period sine and cosine."""
    columns = [np.ones_like(seconds), seconds - seconds.mean(), *((seconds > at).astype(float) for at in breaks)]
    if period is not None:
        columns += [np.sin(2 * np.pi * seconds / period), np.cos(2 * np.pi * seconds / period)]
    return np.stack(columns, axis=1)


def _fit(seconds: Floats, value: Floats, period: float | None, breaks: Floats) -> tuple[Floats, Floats, float]:
    """Least squares: figures, their covariance for one unit of variance, and the sum of squares that is left."""
    design = _design(seconds, period, breaks)
    found, *_ = np.linalg.lstsq(design, value, rcond=None)
    covariance = np.asarray(np.linalg.pinv(design.T @ design), dtype=float)
    return np.asarray(found, dtype=float), covariance, float(np.sum((value - design @ found) ** 2))


def _rests(seconds: Floats, value: Floats, periods: Floats, breaks: Floats) -> Floats:
    """What `_fit` leaves of each period, all at once: offset, slope and steps are taken out of the waves as out of the path, and
    two waves are left to fit."""
    base, size, _ = np.linalg.svd(_design(seconds, None, breaks), full_matrices=False)
    base = base[:, size > 1e-10 * size[0]]
    left = value - base @ (base.T @ value)
    total = float(left @ left)
    told = []
    for some in np.array_split(periods, max(int(seconds.size * periods.size / MOST_AT_ONCE), 1)):
        angle = 2 * np.pi * seconds[:, None] / some
        sine, cosine = (wave - base @ (base.T @ wave) for wave in (np.sin(angle), np.cos(angle)))
        ss, cc, sc = (np.einsum("ij,ij->j", one, other) for one, other in ((sine, sine), (cosine, cosine), (sine, cosine)))
        sy, cy = left @ sine, left @ cosine
        room = ss * cc - sc**2
        both = (sy**2 * cc - 2 * sy * cy * sc + cy**2 * ss) / np.maximum(room, 1e-300)
        alone = np.maximum(sy**2 / np.maximum(ss, 1e-300), cy**2 / np.maximum(cc, 1e-300))
        told.append(total - np.where(room > 1e-9 * ss * cc, both, alone))
    return np.asarray(np.maximum(np.concatenate(told), 0.0))


def worm_of(seconds: Floats, east_px: Floats, exposure_s: float, breaks: Floats = NO_BREAKS) -> Worm | None:
    """The periodic error in a path, or None where it shows none. seconds: of the middles of exposures; breaks: moments at which
    the picture jumped."""
    if seconds.size and seconds[-1] - seconds[0] > NIGHT_S:
        inside = seconds - seconds[0] <= NIGHT_S
        breaks = breaks[breaks < seconds[inside][-1]]
        seconds, east_px = seconds[inside], east_px[inside]
    count = seconds.size
    span = float(np.ptp(seconds)) if count else 0.0
    if count < LEAST_POINTS + breaks.size:
        return None
    longest = min(PERIODS_S[1], 1.6 * span)
    shortest = max(PERIODS_S[0], 2.2 * span / count, 1.05 * exposure_s)
    if longest <= shortest:
        return None
    _, _, plain = _fit(seconds, east_px, None, breaks)
    periods = 1.0 / np.linspace(1.0 / longest, 1.0 / shortest, max(400, int(FINENESS * span / shortest)))
    at = int(np.argmin(_rests(seconds, east_px, periods, breaks)))
    fine = np.linspace(periods[max(at - 1, 0)], periods[min(at + 1, periods.size - 1)], 60)
    rests = _rests(seconds, east_px, fine, breaks)
    rest = float(rests.min())
    wave = _first_order(seconds, east_px, exposure_s, float(fine[int(np.argmin(rests))]), breaks)
    period, amplitude, amplitude_sigma = wave.period_s, wave.amplitude, wave.amplitude_sigma
    averaged = float(np.sinc(exposure_s / period))  # of a sine over an exposure: sin(pi t / T) / (pi t / T)
    surely = 1.0 - rest / max(plain, 1e-12)
    if amplitude < 3.0 * amplitude_sigma or surely < 0.4:
        return None
    return Worm(
        amplitude / averaged,
        amplitude_sigma / averaged,
        period,
        wave.period_sigma,
        wave.phase_rad,
        span / period,
        surely,
        _overtones(seconds, east_px, exposure_s, period, breaks),
    )


@dataclass(frozen=True)
class _FirstOrder:
    """What turns once with the worm, as exposures average it; px and s, each with its sigma."""

    amplitude: float
    amplitude_sigma: float
    period_s: float
    period_sigma: float
    phase_rad: float


def _first_order(seconds: Floats, value: Floats, exposure_s: float, period: float, breaks: Floats) -> _FirstOrder:
    """Amplitude and period, fitted together with drift, steps and overtones.

    Overtones are expected to be as large as those of most worms unless the run says otherwise (a ridge): left out, they would pass
    for noise; free, they would take the place of the drift in a run of a turn and a half.
    """
    base = _design(seconds, None, breaks)
    at = base.shape[1]
    figures, _, rest = _fit(seconds, value, period, breaks)
    sine, cosine = float(figures[-2]), float(figures[-1])
    variance = rest / max(seconds.size - figures.size - 1, 1)
    shapes = [order for order in SHAPE_ORDERS if np.sinc(order * exposure_s / period) > LEAST_LEFT]
    spread, first_period, free = np.zeros((at + 3, at + 3)), period, 1.0
    for _ in range(ROUNDS):
        angle = 2 * np.pi * seconds / period
        by_period = (sine * np.cos(angle) - cosine * np.sin(angle)) * -angle / period
        waves = [wave(order * angle) for order in shapes for wave in (np.sin, np.cos)]
        design = np.column_stack([base, np.sin(angle), np.cos(angle), by_period, *waves])
        usual = [OVERTONE * np.hypot(sine, cosine) * np.sinc(order * exposure_s / period) for order in shapes for _ in range(2)]
        held = np.diag([0.0] * (at + 3) + [variance / max(float(one) ** 2, 1e-12) for one in usual])
        spread = np.linalg.pinv(design.T @ design + held)
        # by_period stands for the change that is still to come, beside the wave as it is.
        figures = spread @ (design.T @ value)
        free = seconds.size - float(np.trace(spread @ design.T @ design))
        left = value - design @ figures
        variance = float(left @ left) / max(free, 1.0)
        sine, cosine = float(figures[at]), float(figures[at + 1])
        step = float(np.clip(figures[at + 2], -0.1 * period, 0.1 * period))
        period = float(np.clip(period + step, 0.7 * first_period, 1.4 * first_period))
    # So few points leave their noise open, too: 68 % of Student's t.
    spread = spread * variance * float(stdtrit(max(free, 2.0), ndtr(1.0))) ** 2
    amplitude = float(np.hypot(sine, cosine))
    way = np.array([sine, cosine]) / max(amplitude, 1e-9)
    amplitude_sigma = float(np.sqrt(max(float(way @ spread[at : at + 2, at : at + 2] @ way), 0.0)))
    period_sigma = float(np.sqrt(max(float(spread[at + 2, at + 2]), 0.0)))
    return _FirstOrder(amplitude, amplitude_sigma, period, period_sigma, float(np.arctan2(cosine, sine)))


def _overtones(seconds: Floats, east_px: Floats, exposure_s: float, period: float, breaks: Floats) -> tuple[Overtone, ...]:
    """Fitted beside the worm itself; none of a run of less than two turns, or of exposures that average them out."""
    orders = [order for order in SHAPE_ORDERS if np.sinc(order * exposure_s / period) > LEAST_LEFT]
    base = _design(seconds, period, breaks)
    left = seconds.size - base.shape[1] - 2 * len(orders)
    if np.ptp(seconds) < LEAST_SHAPE_TURNS * period or left < LEAST_POINTS:
        return ()
    angles = [2 * np.pi * order * seconds / period for order in orders]
    design = np.column_stack([base, *(wave(angle) for angle in angles for wave in (np.sin, np.cos))])
    found, *_ = np.linalg.lstsq(design, east_px, rcond=None)
    spread = np.linalg.pinv(design.T @ design) * float(np.sum((east_px - design @ found) ** 2)) / left
    told = []
    for place, order in enumerate(orders):
        at = slice(base.shape[1] + 2 * place, base.shape[1] + 2 * place + 2)
        size = float(np.hypot(*found[at]))
        sigma = float(np.sqrt(np.trace(spread[at, at]) / 2.0))
        averaged = float(np.sinc(order * exposure_s / period))
        # Noise alone lengthens an amplitude: its square by two variances.
        told.append(Overtone(order, float(np.sqrt(max(size**2 - 2.0 * sigma**2, 0.0))) / averaged, sigma / averaged))
    return tuple(told)


def _behind_a_worm(seconds: Floats, path: Floats, exposure_s: float) -> tuple[int, ...]:
    """A jump that a worm's wander hides: of the largest steps the one that, fitted beside the worm, is far beyond its own error."""
    steps = np.diff(path, axis=0)
    if len(steps) < LEAST_POINTS:
        return ()
    wander = 1.4826 * np.median(np.abs(steps - np.median(steps, axis=0)), axis=0)
    if (8.0 * wander < LEAST_JUMP_PX).all():
        return ()  # no step of the worm is large enough to hide one
    off = np.hypot(*(steps - np.median(steps, axis=0)).T)
    for place in np.argsort(off)[::-1][:3]:
        breaks = np.array([(seconds[place] + seconds[place + 1]) / 2])
        sure = np.arange(seconds.size) != place
        worm = worm_of(seconds[sure], path[sure, 0], exposure_s, breaks)
        if worm is None or worm.surely < SURELY_A_WORM:
            continue
        found, covariance, rest = _fit(seconds[sure], path[sure, 0], worm.period_s, breaks)
        sigma = float(np.sqrt(covariance[2, 2] * rest / max(int(sure.sum()) - found.size, 1)))
        if abs(found[2]) > max(LEAST_JUMP_PX, 8.0 * sigma):
            return (int(place),)
    return ()


def motion(seconds: Floats, exposure: Floats, path: Floats) -> Motion | None:
    """Read a path; NaN where a frame was not solved. None with fewer than four that were."""
    solved = np.asarray(np.isfinite(path).all(axis=1))
    if np.count_nonzero(solved) < 4:
        return None
    t, at = seconds[solved], path[solved]
    open_s = float(np.median(exposure))
    jumps = jumps_in(at)
    if jumps:  # a worm that turns fast is no jump
        turning = worm_of(t, at[:, 0], open_s)
        if turning is not None and turning.surely > SURELY_A_WORM:
            smooth = at.copy()
            smooth[:, 0] -= _design(t, turning.period_s, NO_BREAKS) @ _fit(t, at[:, 0], turning.period_s, NO_BREAKS)[0]
            jumps = jumps_in(smooth)
    jumps = jumps or _behind_a_worm(t, at, open_s)
    # A frame that was open when the picture jumped lies somewhere between: it is left out of what follows.
    breaks = np.array([t[one] + 0.5 * (t[one + 1] - t[one]) for one in jumps])
    sure = np.ones(t.size, dtype=bool)
    for one in jumps:
        sure[one] = False
    if np.count_nonzero(sure) < 4 + breaks.size:
        sure[:] = True
    worm = worm_of(t[sure], at[sure, 0], open_s, breaks)
    level = at.copy()
    drift: list[float] = []
    sigma: list[float] = []
    rests: list[float] = []
    for axis in (0, 1):
        found, covariance, rest = _fit(t[sure], at[sure, axis], worm.period_s if worm and axis == 0 else None, breaks)
        variance = rest / max(int(np.count_nonzero(sure)) - found.size, 1)
        for number, moment in enumerate(breaks):
            level[t > moment, axis] -= found[2 + number]
        drift.append(float(found[1]))
        sigma.append(float(np.sqrt(covariance[1, 1] * variance)))
        rests.append(float(variance))
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
