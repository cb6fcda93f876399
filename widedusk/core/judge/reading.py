"""A course read: what its path and its field of shapes say beside it, and what every test of a cause shares."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.judge.course import Course
from widedusk.core.judge.fields import StaticField, static_field
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.motion import Motion, motion
from widedusk.core.sky.time import Floats

Mask = NDArray[np.bool_]
UNKNOWN = "not known"
MOVED = "moved"  # the picture was framed anew, or slipped between two frames
LONG, LEAST_TRAIL = 1.14, 0.3  # elongation and variance (px²) from which a star is visibly long
WIDE = 1.15  # width against the run's good frames
DIM = 0.85  # share of starlight
BRIGHT = 1.25  # background


@dataclass(frozen=True)
class Finding:
    """cause: key in `causes`, MOVED or UNKNOWN. frames: numbers within the run. sure: 0 to 1. spoke_for, against: what was
    weighed."""

    cause: str
    frames: tuple[int, ...]
    sure: float
    spoke_for: tuple[str, ...]
    against: tuple[str, ...] = ()


@dataclass(frozen=True)
class Read:
    """speed: px a second, east and north, of the path where each frame stands, (n, 2); NaN where not solved."""

    run: Course
    motion: Motion | None
    field: StaticField | None
    speed: Floats

    @property
    def long(self) -> Mask:
        return np.asarray((self.run.elongation > LONG) & (self.run.trail > LEAST_TRAIL) & self.run.has_stars)

    @property
    def dim(self) -> Mask:
        return np.asarray(self.run.clear < DIM)

    @property
    def wide(self) -> Mask:
        return np.asarray(self.run.width > WIDE * self.run.good_width)

    @property
    def bright(self) -> Mask:
        return np.asarray(self.run.sky > BRIGHT)


def read(run: Course, path: Motion | None, limits: Limits) -> Read:
    found = path or motion(run.seconds, run.exposure, run.path)
    speed = np.full((run.count, 2), np.nan)
    if found is not None:
        at = np.flatnonzero(found.solved)
        speed[at] = np.gradient(found.levelled[at], run.seconds[at], axis=0)
    return Read(run, found, static_field(run, limits), speed)


def told(cause: str, frames: Mask, sure: float, *spoke_for: str, against: tuple[str, ...] = ()) -> Finding:
    return Finding(cause, tuple(int(one) for one in np.flatnonzero(frames)), float(np.clip(sure, 0.05, 0.99)), spoke_for, against)


def until_end(mask: Mask, least: float = 0.8) -> int | None:
    """The first frame from which nearly all are so, to the last."""
    for first in np.flatnonzero(mask):
        if np.mean(mask[first:]) >= least and np.count_nonzero(mask[first:]) >= 2:
            return int(first)
    return None


def mask_of(count: int, found: list[Finding]) -> Mask:
    """Every frame that some finding acts on."""
    mask = np.zeros(count, dtype=bool)
    for one in found:
        mask[list(one.frames)] = True
    return mask
