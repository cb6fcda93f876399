"""The frame over the ground of a spot through its window: does a branch cut it, does a wide frame hold the horizon?"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.exposure.response import Through
from widedusk.core.framing.frame import Frame, from_picture
from widedusk.core.framing.standing import Standing, standing
from widedusk.core.night.verdict import Clear
from widedusk.core.night.windows import Night, Run
from widedusk.core.plan.outlook import looked_at
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Quantity, Verdict, Working

EDGE_POINTS = 12  # along each side
EVERY_MIN = 4


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


def _least_clear(found: Standing) -> Floats:
    """Of the lowest place above ground and profile, degrees."""
    return np.asarray((found.altitude_deg - np.maximum(found.profile_deg, 0.0)).min(axis=-1))


def frame_clear(night: Night, frame: Frame) -> Clear:
    """How far the lowest part of a frame stands above ground and profile through a run, by its edge every few minutes."""

    def clear_deg(run: Run) -> Floats:
        at = np.unique(np.append(np.arange(run[0], run[1], EVERY_MIN), run[1]))
        found = standing(night.spot, night.mjd[at][:, None], edge(frame))
        return np.asarray(np.interp(np.arange(run[0], run[1] + 1), at, _least_clear(found)))

    return clear_deg


def _stands(spot: Spot, mjd: float, frame: Frame) -> FrameStands:
    found = standing(spot, mjd, edge(frame))
    clear = float(_least_clear(found))
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


def over_verdict(frames: Sequence[FrameStands]) -> Verdict | None:
    """How near the ground comes to the frame; none where there is no window."""
    if not frames:
        return None
    least = min(frames, key=lambda one: one.clear_deg)
    working = Working(
        "clear",
        "The frame over the ground",
        "least of altitude less horizon profile (or 0°) along the frame's edge",
        tuple(Quantity(f"At {one.clock}", one.clear_deg, "°") for one in frames),
        Quantity("Least", least.clear_deg, "°"),
        "Spherical trigonometry; refraction Bennett 1982, J. Navigation 35, 255; 12 places along each side",
        "published",
    )
    clear = Quantity("Clear by", least.clear_deg, "°", decimals=0, working="clear")
    level: Level = "go" if least.clear_deg >= 0 else "care"
    return Verdict("Frame", level, least.words, "the ground below its lowest edge", figures=(clear,), workings=(working,))
