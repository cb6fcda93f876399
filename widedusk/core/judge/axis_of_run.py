"""The axis for free: every frame of an ordinary run says where the camera looked, and how it turned among the stars is the axis.

The run is taken between two jumps of the picture, where it is longest, and without frames that show few stars. What the drive
does along right ascension, a worm's wander or a wrong rate, is the third component of that turning and left out (pole/series.py).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.errors import InvalidInput
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.matched import Matched
from widedusk.core.judge.course import Shot
from widedusk.core.judge.motion import jumps_in
from widedusk.core.pole.axis import AxisError
from widedusk.core.pole.photographs import Exposed
from widedusk.core.pole.series import LEAST_MINUTES, LEAST_PICTURES, axis_from_series
from widedusk.core.sky.places import Observer, unit_vectors
from widedusk.core.sky.time import SECOND, Floats

MOST_FRAMES = 40  # more add little, and each costs a hundredth of a second
LEAST_STARS = 12
# What stars of a run say of their own scatter leaves out how the lens bends and what the air is like; counted on runs by other
# physics than ours.
STRETCH, LEAST_SIGMA_ARCMIN = 1.1, 0.3


@dataclass(frozen=True)
class Seen:
    """A frame with its named stars: ICRS degrees and V, and pixels of the file from its upper left, each (n,); toward: its
    attitude, nine figures row by row; bend: of the corner."""

    shot: Shot
    ra_deg: Floats
    dec_deg: Floats
    v_mag: Floats
    x: Floats
    y: Floats
    width_px: int
    height_px: int
    toward: Floats
    bend: float


def _exposed(one: Seen) -> Exposed | None:
    looks = one.shot.facts.pointing
    if looks is None or one.ra_deg.size < LEAST_STARS:
        return None
    x, y = one.x - one.width_px / 2, one.y - one.height_px / 2
    matched = Matched(
        -x if looks.mirrored else x,
        y,
        unit_vectors(np.radians(one.ra_deg), np.radians(one.dec_deg)),
        one.v_mag,
        np.full(one.v_mag.shape, np.nan),
        one.toward.reshape(3, 3),
        float(np.degrees(3600.0) / looks.scale_arcsec_px),
        one.bend,
        looks.mirrored,
    )
    middle = one.shot.began_mjd + one.shot.exposure_s / 2 * SECOND
    return Exposed(one.shot.name, matched, middle, float(np.hypot(one.width_px, one.height_px)) / 2)


def _undisturbed(seen: Sequence[Seen]) -> list[Seen]:
    """The longest stretch in which the picture did not jump."""
    solved = [one for one in seen if one.shot.facts.pointing is not None]
    looks = [one.shot.facts.pointing for one in solved if one.shot.facts.pointing is not None]
    if len(looks) < LEAST_PICTURES:
        return []
    scale, dec = looks[0].scale_arcsec_px, np.array([one.dec_deg for one in looks])
    ra = np.degrees(np.unwrap(np.radians([one.ra_deg for one in looks])))
    path = np.stack([ra * np.cos(np.radians(np.median(dec))), dec], axis=1) * 3600.0 / scale
    cuts = [0, *(jump + 1 for jump in jumps_in(path)), len(solved)]
    # The frame that was open when it jumped lies between both.
    parts = [solved[first : last - (last < len(solved))] for first, last in pairwise(cuts)]
    return max(parts, key=len)


def axis_of_run(seen: Sequence[Seen], observer: Observer, pole: PoleKind, air: Air) -> AxisError | None:
    """Where the axis stood, or None where the run is too short or too disturbed to tell."""
    steady = _undisturbed(seen)
    exposed = [one for one in map(_exposed, steady) if one is not None]
    if len(exposed) < LEAST_PICTURES or (exposed[-1].mjd - exposed[0].mjd) * 1440.0 < LEAST_MINUTES:
        return None
    chosen = np.unique(np.linspace(0, len(exposed) - 1, min(len(exposed), MOST_FRAMES)).astype(int))
    try:
        found = axis_from_series([exposed[one] for one in chosen], observer, pole, air)
    except InvalidInput:
        return None
    high, east = (float(np.hypot(STRETCH * one, LEAST_SIGMA_ARCMIN)) for one in (found.altitude_sigma, found.azimuth_sigma))
    return replace(found, altitude_sigma=high, azimuth_sigma=east)
