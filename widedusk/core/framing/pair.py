"""Two cameras on one framing: where the second looks beside the first, and what both see."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.framing.frame import Frame, from_picture, holds, ra_dec_deg
from widedusk.core.framing.nudge import carried_angle_deg
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Quantity, Verdict, Working

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


def pair_verdict(found: Pair) -> Verdict:
    """What both cameras see, in words."""
    working = Working(
        "both",
        "What both see",
        "Σ dA / (1 + x² + y²)^(3/2) over the cells of each frame that the other holds",
        (Quantity("Cells along a side", GRID, decimals=0),),
        Quantity("Both", found.both_deg2, "deg²", decimals=2),
        "Solid angle of a cell of the gnomonic picture; counted, to about a per cent",
        "definition",
    )
    figures = (
        Quantity("Both", found.both_deg2, "deg²", working="both"),
        Quantity("of this frame", found.of_first * 100, "%", decimals=0, working="both"),
        Quantity("of the other", found.of_second * 100, "%", decimals=0, working="both"),
        Quantity("Together", found.either_deg2, "deg²", working="both"),
    )
    level: Level = "go" if found.both_deg2 > 0 else "care"
    sentence = (
        f"Both see {found.both_deg2:.1f} deg², {found.of_first * 100:.0f} % of this frame."
        if found.both_deg2 > 0
        else "They see nothing together."
    )
    return Verdict("Two cameras", level, sentence, "how the second is turned aside", figures=figures, workings=(working,))
