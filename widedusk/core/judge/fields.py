"""Shapes of stars over the picture that are the same in every frame: what the lens does, and a field that turns.

The mean over the picture is taken off first, so that trailing and focus, which are alike everywhere, leave nothing behind.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.judge.course import Course, middle
from widedusk.core.judge.limits import USUAL_LIMITS, Limits
from widedusk.core.sky.time import Floats

FieldKind = Literal["coma", "soft corners", "tilt", "rotation", "unknown", ""]
# How alike the halves of a run are, and how much stronger one may be, while a field stays as it is; and frames to tell it. Our own.
SAME_FIELD, MOST_GROWN, LEAST_IN_HALVES = 0.6, 4.0, 6
LEAST_ZONES, LEAST_STARS = 9, 3  # of a zone, in each frame
# Share by which the moments of one star are off; times any other zone, of one that is left out. Our own.
STARS_DIFFER, ODD = 0.1, 2.5
LEAST_CORNERS = 2  # of the four, to say what a lens does in them
# Of what the sides add to the variance of stars: by a lens corners add 1.3 times as much at least, top and bottom a tenth. Our own.
CORNERS_ADD, COLUMN_ADDS = 1.2, 0.15
FAR_OFF = 1.1  # picture widths from the middle
GRID = np.linspace(-1.5, 1.5, 31)
EXPLAINS = 0.6  # share of a field from which a pattern is its cause
GRADIENT_EXPLAINS = 0.3  # beyond what every lens does alike in all corners, from which one side is softer than the other


@dataclass(frozen=True)
class StaticField:
    """kind: what explains it best, "" for a field that is even. explained: share of it; corner_ratio: long over short axis where
    it is worst; wide_ratio: width on the worst side against the best; about: of a rotation, in picture widths from the middle."""

    kind: FieldKind
    explained: float
    runner_up: float
    corner_ratio: float
    wide_ratio: float
    about: tuple[float, float]


def _tensors(ux: Floats, uy: Floats, size: Floats) -> Floats:
    return np.stack([size * ux * ux, size * uy * uy, size * ux * uy], axis=-1)


def _explained(seen: Floats, weight: Floats, patterns: list[Floats]) -> float:
    """Share of a field that a sum of patterns explains, each less its own mean; patterns count for nothing with a minus sign."""
    design = np.stack([((one - np.average(one, axis=0, weights=weight)) * np.sqrt(weight)[:, None]).ravel() for one in patterns], 1)
    target = (seen * np.sqrt(weight)[:, None]).ravel()
    found, *_ = np.linalg.lstsq(design, target, rcond=None)
    total = float(target @ target)
    return 1.0 - float(np.sum((target - design @ found) ** 2)) / max(total, 1e-12) if found[0] > 0 or len(patterns) > 1 else 0.0


def static_field(run: Course, limits: Limits = USUAL_LIMITS) -> StaticField | None:
    """Read the field of a run; None where too few zones have stars enough. limits: beyond which soft or long corners are faults."""
    sound = np.asarray(np.isfinite(run.zones).all(axis=2) & (run.zone_stars >= LEAST_STARS))
    common = np.flatnonzero(sound.sum(axis=0) >= max(0.5 * np.count_nonzero(run.has_stars), 1))
    if common.size < LEAST_ZONES:
        return None
    full = run.zones[np.asarray(sound[:, common].all(axis=1))][:, common]
    if not len(full):
        full = middle(run.zones[:, common])[None]
    typical = np.median(full, axis=0)
    if common.size > LEAST_ZONES:
        odd = _odd_one(typical)
        if odd is not None:
            common, full, typical = (np.delete(common, odd), np.delete(full, odd, axis=1), np.delete(typical, odd, axis=0))
    stars = np.median(run.zone_stars[:, common], axis=0)
    # The same stars lie in a zone in every frame: some are two, and more frames make them no rounder.
    own = STARS_DIFFER * typical[:, :2].mean() / np.sqrt(np.maximum(stars, 1.0))[:, None]
    noise = np.hypot(np.std(full, axis=0) / np.sqrt(len(full)), own)
    x, y = run.zone_x[common], run.zone_y[common] * 2 / 3  # in widths of a picture of three by two
    weight = stars + 1.0
    weight = weight / weight.sum()
    seen = typical - np.average(typical, axis=0, weights=weight)
    away = np.maximum(np.hypot(x, y), 1e-6)
    radial = _tensors(x / away, y / away, away**4)
    mean = (typical[:, 0] + typical[:, 1]) / 2
    spread = np.hypot((typical[:, 0] - typical[:, 1]) / 2, typical[:, 2])
    ratio = float(np.max(np.sqrt((mean + spread) / np.maximum(mean - spread, 0.05))))
    small = mean - spread
    wide = float(np.sqrt(np.quantile(small, 0.95) / max(float(np.quantile(small, 0.05)), 0.05)))
    strength = float(np.sqrt(np.average(np.sum(seen**2, axis=1), weights=weight)))
    base = max(float(np.quantile(small, 0.1)), 0.1)
    if strength < max(0.12 * base, 4.0 * float(np.sqrt(np.mean(noise**2)))):
        return StaticField("", 0.0, 0.0, ratio, wide, (0.0, 0.0))
    of_lens, tilted = _lens_and_tilt(seen, weight, (x, y), radial)
    told: dict[FieldKind, float] = {"coma": _explained(seen, weight, [radial]), "soft corners": of_lens, "tilt": tilted}
    told["rotation"], about = _turning(seen, weight, (x, y))
    order = sorted(told, key=lambda one: -told[one])
    if order[0] == "rotation" and np.hypot(*about) > FAR_OFF:
        return StaticField("", 0.0, 0.0, ratio, wide, about)  # the whole picture drifts, about a point far outside: no guide star
    kind: FieldKind = order[0] if told[order[0]] > EXPLAINS else "unknown"
    if kind in {"coma", "soft corners"}:
        # What every lens does in its corners is no fault until it is more than people allow.
        if np.count_nonzero((np.abs(x) > 0.3) & (np.abs(y) > 0.1)) < LEAST_CORNERS:
            return StaticField("unknown", told[order[0]], told[order[1]], ratio, wide, about)
        kind = "coma" if told["coma"] > EXPLAINS and ratio > limits.elongation else "soft corners" if wide > limits.width else ""
        if kind == "soft corners" and _cut_by_the_focus(small, x, y):
            kind = "tilt"
    if kind and not _stays(full, weight):
        kind = "unknown"
    return StaticField(kind, told[order[0]], told[order[1]], ratio, wide, about)


def _turning(seen: Floats, weight: Floats, place: tuple[Floats, Floats]) -> tuple[float, tuple[float, float]]:
    """Share of a field that one turning about a point explains, and that point."""
    x, y = place
    best, about = 0.0, (0.0, 0.0)
    for x0 in GRID:
        for y0 in GRID:
            share = _explained(seen, weight, [_tensors(-(y - y0), x - x0, np.ones_like(x))])
            if share > best:
                best, about = share, (float(x0), float(y0))
    return best, about


def _cut_by_the_focus(variance: Floats, x: Floats, y: Floats) -> bool:
    """Whether left and right are soft and the whole column between them is not, as a sensor leaves it that is tilted about an
    upright line through the focus. A lens is the softer the farther from the middle: in its corners more than beside it."""
    aside, high = np.abs(x) > 0.3, np.abs(y) > 0.1
    corners, sides, column = (variance[one] for one in (aside & high, aside & ~high, (np.abs(x) < 0.1) & high))
    if not (corners.size > 2 and sides.size and column.size):
        return False
    best = float(variance[~aside].min())
    beyond = float(sides.mean()) - best
    return float(corners.mean()) - best < CORNERS_ADD * beyond and float(column.mean()) - best < COLUMN_ADDS * beyond


def _stays(full: Floats, weight: Floats) -> bool:
    """Whether a field is the same in both halves of a run: a lens does not change, a drop on it comes. full: (frames, zones, 3)."""
    if len(full) < LEAST_IN_HALVES:
        return True
    half = len(full) // 2
    first, last = (np.median(part, axis=0) for part in (full[:half], full[half:]))
    first, last = (one - np.average(one, axis=0, weights=weight) for one in (first, last))
    alike = float(np.sum(first * last)) / max(float(np.sqrt(np.sum(first**2) * np.sum(last**2))), 1e-12)
    grown = float(np.sum(last**2) / max(float(np.sum(first**2)), 1e-12))
    return alike > SAME_FIELD and 1.0 / MOST_GROWN < grown < MOST_GROWN


def _odd_one(typical: Floats) -> int | None:
    """The one zone that is like none of the others, where there is one: a double star among few."""
    off = np.linalg.norm(typical - np.median(typical, axis=0), axis=1)
    most, second = np.argsort(off)[::-1][:2]
    return int(most) if off[most] > ODD * max(float(off[second]), 1e-9) else None


def _lens_and_tilt(seen: Floats, weight: Floats, place: tuple[Floats, Floats], radial: Floats) -> tuple[float, float]:
    """Share of a field that is alike in all corners, and that of one with a side softer than the other, or with two opposite sides
    softer than the two between them, as a plane that cuts the focus leaves it; nought for the second where that adds little."""
    x, y = place
    round_ = np.stack([np.ones_like(x), np.ones_like(x), np.zeros_like(x)], axis=1)
    away = x**2 + y**2
    corners = [round_ * away[:, None], round_ * away[:, None] ** 2, radial]
    alike = _explained(seen, weight, corners)
    sloped = [round_ * one[:, None] for one in (x, y, x * y, x**2 - y**2)]
    both = _explained(seen, weight, [*corners[:2], *sloped])
    beyond = both - _explained(seen, weight, corners[:2])
    return alike, both if beyond > GRADIENT_EXPLAINS else 0.0
