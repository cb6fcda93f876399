"""Two cameras on one framing: where the second looks beside the first, and what both see."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.framing.frame import Frame, from_picture, holds, ra_dec_deg
from widedusk.core.framing.nudge import carried_angle_deg
from widedusk.core.sky.time import Floats

FAR_DEG = 60.0
GRID = 60  # samples along each side


@dataclass(frozen=True)
class Pair:
    """Shares of area, 0 to 1. either_deg2: what at least one of them sees, square degrees."""

    second: Frame
    of_first: float
    of_second: float
    both_deg2: float
    either_deg2: float


def _cells(frame: Frame) -> tuple[Floats, Floats]:
    """Directions all over a frame and the solid angle each stands for, square degrees."""
    wide, high = frame.half
    x, y = np.meshgrid((np.arange(GRID) + 0.5) / GRID * 2 - 1, (np.arange(GRID) + 0.5) / GRID * 2 - 1)
    x, y = x.ravel() * wide, y.ravel() * high
    area = (2 * wide / GRID) * (2 * high / GRID) / (1 + x**2 + y**2) ** 1.5
    return from_picture(frame, x, y), np.asarray(area * np.degrees(1.0) ** 2)


def pair(first: Frame, sides_deg: tuple[float, float], right_deg: float, up_deg: float, turn_deg: float) -> Pair:
    """A second camera that looks so far right of and above the first, turned counter-clockwise against it. Raises InvalidInput."""
    checks = Checks()
    checks.within("right_deg", right_deg, -FAR_DEG, FAR_DEG, "°")
    checks.within("up_deg", up_deg, -FAR_DEG, FAR_DEG, "°")
    checks.within("turn_deg", turn_deg, -360, 360, "°")
    checks.done()
    towards = from_picture(first, np.tan(np.radians(right_deg)), -np.tan(np.radians(up_deg)))
    ra, dec = ra_dec_deg(towards)
    angle = (carried_angle_deg(first, towards) + turn_deg) % 360.0
    second = Frame(float(ra), float(dec), angle, *sides_deg)
    mine, my_area = _cells(first)
    theirs, their_area = _cells(second)
    seen = my_area[holds(second, mine)].sum()
    of_second = their_area[holds(first, theirs)].sum() / their_area.sum()
    whole = my_area.sum() + their_area.sum() - seen
    return Pair(second, float(seen / my_area.sum()), float(of_second), float(seen), float(whole))
