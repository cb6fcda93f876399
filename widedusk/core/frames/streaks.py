"""Straight lines of light across a picture: satellites, aircraft, meteors, told apart as far as one frame can.

The picture is made coarse by means of blocks, stars are covered, and what stands above the noise votes for the lines it may lie
on (Hough's transform in the normal form: Duda & Hart 1972, CACM 15, 11). The strongest line is followed from end to end.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_closing, uniform_filter1d

from widedusk.core.frames.blocks import means
from widedusk.core.frames.facts import Streak, StreakKind
from widedusk.core.frames.stars import Found
from widedusk.core.sky.time import Floats

COARSE_PX = 600  # long side of what is looked at, about
ANGLES = 480
ABOVE = 2.2  # of the noise, from which a block has a vote
MOST_VOTERS = 0.03  # of the blocks: where wings of faint stars fill more, only the brighter have a vote
BRIDGED = 21  # blocks over which gaps of a dotted line are bridged
LEAST_LONG = 0.07  # of the diagonal, for a meteor
ACROSS = 0.22  # of the diagonal: how long what is no meteor must be
LEAST_FILLED = 0.4  # of its blocks are lit
SURE = 11.5  # standard deviations of the light along lines beside it; the best of all lines in frames without one reaches nine
BESIDE = (5, 31)  # blocks
MOST_STREAKS = 4
RIM = 0.02  # of the width
EDGE = 0.05  # of the side: an end nearer to the edge than that runs out of the picture
# Dashes of a row, blocks of each, how uneven they may be, and how much of the way may be lit. Our own.
LEAST_DASHES, LEAST_DASH, UNEVEN, MOST_LIT = 4, 3, 0.2, 0.75
COVERED = 9  # blocks of a dash that a covered star may hide
DOTTED = 0.35  # of a dotted line's variance along it in one rhythm
SWELLS = 2.2  # middle of a meteor against its ends


def find_streaks(plane: NDArray[np.float32], found: Found, binning: int) -> tuple[Streak, ...]:
    """Lines in a picture, background taken off; none in a picture whose stars are themselves trailed."""
    if found.axis_ratio > 2.0 and found.alike > 0.5:
        return ()
    step = max(plane.shape[1] // COARSE_PX, 1)
    blocks = means(plane, step).astype(float)
    columns = blocks.shape[1]
    blocks -= np.median(blocks)
    calm = blocks[np.abs(blocks) < np.quantile(np.abs(blocks), 0.9)]
    blocks = blocks / max(
        1.27 * float(np.std(calm)), 1e-9
    )  # of a Gaussian cut at its 90 %; codes of a JPEG are too coarse for a median
    _cover(blocks, found, step)
    rim = max(round(RIM * columns), 2)  # the level of the sky is less sure there, and stars are cut
    blocks[:rim] = blocks[-rim:] = blocks[:, :rim] = blocks[:, -rim:] = 0.0
    told: list[Streak] = []
    for _ in range(MOST_STREAKS):
        one = _strongest(blocks, step * binning)
        if one is None:
            break
        told.append(one)
    return tuple(told)


def _cover(blocks: Floats, found: Found, step: int) -> None:
    """Take stars out, each with a ring around it that grows with its light."""
    rows, columns = blocks.shape
    column = ((found.x + (found.width_px - 1) / 2) / step).astype(int)
    row = ((found.y + (found.height_px - 1) / 2) / step).astype(int)
    size = found.fwhm_px / step
    star = np.ones(found.count, dtype=bool) if found.ratios is None else found.ratios < max(1.8 * found.axis_ratio, 2.0)
    column, row = column[star], row[star]
    brighter = np.clip(np.log10(np.maximum(found.light[star], 1e-9) / max(float(np.median(found.light)), 1e-9)), 0, 3)
    reach = np.ceil(1.2 * size + 0.8 + 0.9 * size * brighter).astype(int)
    for wide in np.unique(reach):
        here = reach == wide
        for down in range(-wide, wide + 1):
            for right in range(-wide, wide + 1):
                if down * down + right * right <= wide * wide + 1:
                    blocks[np.clip(row[here] + down, 0, rows - 1), np.clip(column[here] + right, 0, columns - 1)] = 0.0


def _strongest(blocks: Floats, scale: float) -> Streak | None:
    """The line with most votes, if it is one; it is taken out of the blocks. scale: pixels of the file in a block."""
    rows, columns = blocks.shape
    row, column = np.nonzero(blocks > max(ABOVE, float(np.quantile(blocks, 1.0 - MOST_VOTERS))))
    if row.size < 12:
        return None
    x, y = column - (columns - 1) / 2, row - (rows - 1) / 2
    half = float(np.hypot(rows, columns)) / 2
    bins = int(2 * half) + 3
    angle = np.arange(ANGLES) * np.pi / ANGLES
    votes = np.empty((ANGLES, bins), dtype=np.int64)
    for number, (cos, sin) in enumerate(zip(np.cos(angle), np.sin(angle), strict=True)):
        votes[number] = np.bincount((x * cos + (y * sin + (half + 1.5))).astype(np.int32), minlength=bins)  # the nearest whole
    share = row.size / blocks.size
    across = _lengths(bins, half, rows, columns)
    likely = share * across
    surplus = np.where(across > LEAST_LONG * half, (votes - likely) / np.sqrt(likely + 1.0), 0.0)
    best, at = np.unravel_index(int(np.argmax(surplus)), surplus.shape)
    if surplus[best, at] < 5.0:
        return None
    normal, offset = _sharpened(x, y, float(angle[best]), float(at) - half - 1)
    return _followed(blocks, normal, offset, scale)


@lru_cache(maxsize=2)
def _lengths(bins: int, half: float, rows: int, columns: int) -> Floats:
    """How long each line is inside the picture, in blocks; shape (angles, bins)."""
    angle = np.arange(ANGLES) * np.pi / ANGLES
    offset = (np.arange(bins) - half - 1)[None, :]
    cos, sin = np.cos(angle)[:, None], np.sin(angle)[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        # x = offset cos - s sin, y = offset sin + s cos, both inside
        by_x = np.stack([(offset * cos - edge) / sin for edge in (-columns / 2, columns / 2)])
        by_y = np.stack([(edge - offset * sin) / cos for edge in (-rows / 2, rows / 2)])
    by_x = np.where(np.isfinite(by_x), by_x, np.array([-1e9, 1e9])[:, None, None])
    by_y = np.where(np.isfinite(by_y), by_y, np.array([-1e9, 1e9])[:, None, None])
    first = np.maximum(by_x.min(axis=0), by_y.min(axis=0))
    last = np.minimum(by_x.max(axis=0), by_y.max(axis=0))
    return np.asarray(np.maximum(last - first, 0.0))


def _sharpened(x: Floats, y: Floats, normal: float, offset: float) -> tuple[float, float]:
    """The line through the voters near it, by their own scatter, in two rounds."""
    for reach in (3.0, 1.8):
        away = x * np.cos(normal) + y * np.sin(normal) - offset
        near = np.abs(away) < reach
        if np.count_nonzero(near) < 6:
            break
        along = -x[near] * np.sin(normal) + y[near] * np.cos(normal)
        slope, level = np.polyfit(along, away[near], 1)
        normal, offset = normal - float(np.arctan(slope)), offset + float(level)
    return normal, offset


def _along(blocks: Floats, x: Floats, y: Floats) -> Floats:
    """Light of the blocks at places counted from the middle; NaN off the picture."""
    rows, columns = blocks.shape
    column, row = np.rint(x + (columns - 1) / 2).astype(int), np.rint(y + (rows - 1) / 2).astype(int)
    inside = (row >= 0) & (row < rows) & (column >= 0) & (column < columns)
    return np.where(inside, blocks[np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)], np.nan)


def _followed(blocks: Floats, normal: float, offset: float, scale: float) -> Streak | None:
    """Where along the line its light begins and ends, and what its light is like."""
    rows, columns = blocks.shape
    across = np.array([np.cos(normal), np.sin(normal)])
    along = np.arange(-np.hypot(rows, columns) / 2, np.hypot(rows, columns) / 2)
    x, y = offset * across[0] - along * across[1], offset * across[1] + along * across[0]
    here = np.isfinite(_along(blocks, x, y))
    x, y = x[here], y[here]
    strip = np.max([np.nan_to_num(_along(blocks, x + aside * across[0], y + aside * across[1])) for aside in (-1, 0, 1)], axis=0)
    # The stretch whose light stands out most: the largest sum of what exceeds a third of the line's own height, dots bridged.
    high = float(np.quantile(strip, 0.9))
    even = uniform_filter1d(np.minimum(strip, 1.5 * high), BRIDGED, mode="nearest")
    first, last = _best_stretch(even - max(0.35 * float(np.quantile(even, 0.95)), 1.5))
    faint = max(0.12 * high, 1.5)
    lit = np.flatnonzero(strip[first : last + 1] > faint)
    if lit.size == 0:
        return None
    first, last = first + int(lit[0]), first + int(lit[-1])
    while first > 1 and strip[first - 2 : first].mean() > faint:
        first -= 1
    while last < strip.size - 2 and strip[last + 1 : last + 3].mean() > faint:
        last += 1
    dashes = _dashes(strip)
    if dashes is not None:
        first, last = min(first, dashes[0]), max(last, dashes[1])
    stretch, body = slice(first, last + 1), strip[first : last + 1]
    stands_out = _stands_out(blocks, x[stretch], y[stretch], across, 2.0 * high)
    for down in (-2, -1, 0, 1, 2):  # it is taken out, whatever it is
        for right in (-2, -1, 0, 1, 2):
            row = np.clip(np.rint(y[stretch] + (rows - 1) / 2).astype(int) + down, 0, rows - 1)
            column = np.clip(np.rint(x[stretch] + (columns - 1) / 2).astype(int) + right, 0, columns - 1)
            blocks[row, column] = 0.0
    if body.size < LEAST_LONG * np.hypot(rows, columns) or stands_out < SURE:
        return None
    if dashes is None and np.mean(body > faint) < LEAST_FILLED:
        return None
    ends = [(x[one] / columns + 0.5, y[one] / rows + 0.5) for one in (first, last)]
    leaves = [min(px, 1 - px) < EDGE or min(py, 1 - py) < EDGE for px, py in ends]
    evened = np.minimum(body, 2.0 * float(np.median(body[body > faint])))  # a star on its way is no swelling
    kind = "aircraft" if dashes is not None else _kind(evened, leaves)
    if kind != "meteor" and body.size < ACROSS * np.hypot(rows, columns):
        return None
    (from_x, from_y), (to_x, to_y) = ends
    return Streak(kind, float(from_x), float(from_y), float(to_x), float(to_y), float(body.size * scale), stands_out)


def _dashes(strip: Floats) -> tuple[int, int] | None:
    """From the first to the last of four dashes or more that follow each other evenly, as a lamp that blinks on its way leaves
    them; none where the light along a line is no such row."""
    lit = uniform_filter1d(strip, 3, mode="nearest") > max(0.3 * float(np.quantile(strip, 0.97)), 2.0)
    # Stars that were covered break a dash in two.
    return _row_of_dashes(lit) or _row_of_dashes(binary_closing(lit, np.ones(COVERED)))


def _row_of_dashes(lit: NDArray[np.bool_]) -> tuple[int, int] | None:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], lit, [False]]).astype(int)))
    first, last = edges[0::2], edges[1::2] - 1
    long = last - first + 1
    if not long.size:
        return None
    dash = long >= max(LEAST_DASH, 0.5 * float(np.quantile(long, 0.8)))  # a star on the way is shorter
    middle = ((first + last) / 2.0)[dash]
    if middle.size < LEAST_DASHES:
        return None
    between = np.diff(middle)
    even = np.abs(between - np.median(between)) < UNEVEN * np.median(between)
    gaps = bool(np.mean(lit[first[dash][0] : last[dash][-1]]) < MOST_LIT)
    return (int(first[dash][0]), int(last[dash][-1])) if gaps and np.mean(even) > 0.8 else None


def _stands_out(blocks: Floats, x: Floats, y: Floats, across: Floats, most: float) -> float:
    """How far the light along a line exceeds that along lines beside it, in their own scatter: a row of faint stars or the wing of
    a bright one lies among others like it, a streak does not. most: light of a block beyond which no more is counted."""

    def mean(aside: float) -> float:
        light = _along(blocks, x + aside * across[0], y + aside * across[1])
        known = np.isfinite(light)
        return float(np.mean(np.minimum(light[known], most))) if np.count_nonzero(known) > 0.5 * x.size else np.nan

    beside = np.array([mean(sign * aside) for sign in (-1, 1) for aside in range(BESIDE[0], BESIDE[1])])
    beside = beside[np.isfinite(beside)]
    if beside.size < 10:
        return 0.0
    return (max(mean(aside) for aside in (-1, 0, 1)) - float(np.mean(beside))) / max(float(np.std(beside)), 1e-9)


def _best_stretch(above: Floats) -> tuple[int, int]:
    """Begin and end of the stretch with the largest sum. Source: Kadane's algorithm (Bentley 1984, CACM 27, 865)."""
    total = np.concatenate([[0.0], np.cumsum(above)])
    lowest = np.minimum.accumulate(total)
    last = int(np.argmax(total[1:] - lowest[:-1]))
    first = int(np.argmin(total[: last + 1]))
    return first, last


def _kind(body: Floats, leaves: list[bool]) -> StreakKind:
    """Dots in one rhythm: an aircraft. A swelling that ends inside: a meteor. Else a satellite, the commonest."""
    if body.size >= 24:
        power = np.abs(np.fft.rfft((body - body.mean()) * np.hanning(body.size))) ** 2
        usable = power[3:]
        peak = int(np.argmax(usable))
        in_rhythm = float(usable[max(peak - 1, 0) : peak + 2].sum() / max(power[1:].sum(), 1e-9))
        if in_rhythm > DOTTED and float(np.std(body)) > 0.25 * float(np.mean(body)):
            return "aircraft"
    fifth = max(body.size // 5, 1)
    middle, ends = (
        float(np.mean(body[2 * fifth : -2 * fifth or None])),
        float(np.mean(np.concatenate([body[:fifth], body[-fifth:]]))),
    )
    if not all(leaves) and middle > SWELLS * max(ends, 0.2):
        return "meteor"
    if not any(leaves) and middle > 1.3 * ends:
        return "meteor"
    return "satellite"
