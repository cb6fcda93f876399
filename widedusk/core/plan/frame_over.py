"""The frame over the ground of a spot through its window: does a branch cut it, does a wide frame hold the horizon?"""

from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through
from widedusk.core.framing.frame import Frame, from_picture
from widedusk.core.framing.standing import standing
from widedusk.core.plan.outlook import looked_at
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import Floats

EDGE_POINTS = 12  # along each side


@dataclass(frozen=True)
class FrameStands:
    """Outline as azimuth and apparent altitude, degrees, closed. clear_deg: of its lowest part above ground and profile."""

    clock: str
    outline: list[list[float]]
    clear_deg: float
    words: str


def edge(frame: Frame) -> Floats:
    """Unit vectors all along the edge of a frame, from its upper left corner clockwise."""
    wide, high = frame.half
    step = np.arange(EDGE_POINTS) / EDGE_POINTS * 2.0 - 1.0
    flat = np.full(EDGE_POINTS, 1.0)
    x = np.concatenate([step * wide, flat * wide, -step * wide, -flat * wide])
    y = np.concatenate([-flat * high, step * high, flat * high, -step * high])
    return from_picture(frame, x, y)


def _stands(spot: Spot, mjd: float, frame: Frame) -> FrameStands:
    found = standing(spot, mjd, edge(frame))
    clear = float((found.altitude_deg - np.maximum(found.profile_deg, 0.0)).min())
    points = np.round(np.stack([found.azimuth_deg, found.altitude_deg], axis=1), 1).tolist()
    clock = spot.clock(mjd)
    cut = f"At {clock} the ground cuts {-clear:.0f}° into it."
    words = f"At {clock} the whole frame is clear, by {clear:.0f}°." if clear >= 0 else cut
    return FrameStands(clock, [*points, points[0]], clear, words)


def frame_through_window(
    spot: Spot, evening: date, target: Target, frame: Frame, choices: Choices, through: Through | None = None
) -> tuple[FrameStands, ...]:
    """The frame where the window of its middle opens, halfway and where it closes; nothing where there is no window."""
    aim = replace(target, ra_deg=frame.ra_deg, dec_deg=frame.dec_deg)
    night, path = looked_at(spot, evening, aim, choices, through)
    if path.best_run is None:
        return ()
    first, last = path.best_run
    return tuple(_stands(spot, float(night.mjd[minute]), frame) for minute in (first, (first + last) // 2, last))
