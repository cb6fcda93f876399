"""The dusk of one person: from when an axis can be measured by stars, and by when the axes of several rigs are aligned, one after
the other.

Durations are common practice, no source; the field tells what they were for this person (core/field/durations.py).
"""

from collections.abc import Sequence

import numpy as np

from widedusk.core.night.windows import Night, setup_mjd
from widedusk.core.plan.schedule.worth import Stand
from widedusk.core.sky.time import MINUTE

STARS_OUT_SUN_DEG = -9.0  # the Sun so low that stars of a polar scope or a picture are seen. Common practice, no source
ALIGN_MIN = 15.0  # of one axis, whichever way


def is_tracked(stand: Stand) -> bool:
    return stand.rig.tracker is not None and stand.choices.tracking != "untracked"


def stars_out_mjd(night: Night) -> float | None:
    """When stars are out by which an axis can be measured; none where they never are."""
    out, _ = night.sun_crossing(np.radians(STARS_OUT_SUN_DEG))
    return out


def all_aligned_mjd(night: Night, stands: Sequence[Stand]) -> float | None:
    """When one person has aligned every rig that tracks; none for a single one, whose own set-up time says it, and by day."""
    tracked = [stand for stand in stands if is_tracked(stand)]
    out = stars_out_mjd(night)
    if len(tracked) < 2 or out is None:
        return None
    begin = max(out, min(setup_mjd(night, stand.choices) for stand in tracked))
    return begin + len(tracked) * ALIGN_MIN * MINUTE
