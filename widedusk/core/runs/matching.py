"""Which run of the night a series of frames belongs to, by field, focal length, time and exposure.

A series that shows no target of the night, or was taken through another lens, belongs to no run and is never counted silently.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.sky.places import separation
from widedusk.core.sky.time import MINUTE

Recognition = Literal["planned", "target", "not solved", "other field", "other lens"]
UNRECOGNISED: tuple[Recognition, ...] = ("not solved", "other field", "other lens")  # frames that count only by the user's word
SAME_FOCAL = 0.12  # of the focal length, within which a field is that of the lens; zooms and breathing. Our own
IN_FIELD = 0.5  # of the longer side: the target lies in the picture
FAR_MIN = 180.0  # from the planned time, beyond which frames are of no planned run. Our own


@dataclass(frozen=True, kw_only=True)
class Series:
    """Frames of one camera, field and setting, in order of time. NaN: not known."""

    begins_mjd: float
    ends_mjd: float
    exposure_s: float
    ra_deg: float
    dec_deg: float
    width_deg: float  # of the picture, along its longer side
    frames: int

    @property
    def solved(self) -> bool:
        return bool(np.isfinite(self.ra_deg + self.dec_deg + self.width_deg))


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A run of the night with the same rig. begins_mjd, ends_mjd: as planned, NaN where nobody said; exposure_s: 0 where nobody
    said."""

    number: int
    begins_mjd: float
    ends_mjd: float
    exposure_s: float
    ra_deg: float
    dec_deg: float


@dataclass(frozen=True)
class Match:
    """number: of the run; None where the series belongs to none of them. recognition: how far it was recognised."""

    number: int | None
    recognition: Recognition


def separation_deg(ra_deg: float, dec_deg: float, other_ra_deg: float, other_dec_deg: float) -> float:
    """Between two directions."""
    return float(np.degrees(separation(*np.radians([ra_deg, dec_deg, other_ra_deg, other_dec_deg]))))


def of_other_lens(width_deg: float, rig_width_deg: float) -> bool:
    """Whether a field is not that of the rig's lens, as far as both are known."""
    if not np.isfinite(width_deg + rig_width_deg):
        return False
    seen, expected = (np.tan(np.radians(side) / 2) for side in (width_deg, rig_width_deg))
    return bool(abs(np.log(seen / expected)) > np.log1p(SAME_FOCAL))


def shows(series: Series, ra_deg: float, dec_deg: float) -> bool:
    """Whether a direction lies in the picture."""
    return separation_deg(series.ra_deg, series.dec_deg, ra_deg, dec_deg) < IN_FIELD * series.width_deg


def _minutes_apart(series: Series, candidate: Candidate) -> float:
    """Between the middle of the series and the time that was planned; 0 inside it and where either is not known."""
    middle = (series.begins_mjd + series.ends_mjd) / 2
    if not np.isfinite(middle + candidate.begins_mjd + candidate.ends_mjd):
        return 0.0
    return float(max(candidate.begins_mjd - middle, middle - candidate.ends_mjd, 0.0) / MINUTE)


def match(series: Series, candidates: Sequence[Candidate], targets: Sequence[tuple[float, float]], rig_width_deg: float) -> Match:
    """The run that a series belongs to: of those whose field it shows the nearest in time, then in exposure, then in the picture.

    targets: right ascension and declination of everything else that the user might have photographed, degrees. rig_width_deg: of
    the rig's field along its longer side, NaN where no lens is known.
    """
    if not series.solved:
        return Match(None, "not solved")
    if of_other_lens(series.width_deg, rig_width_deg):
        return Match(None, "other lens")
    inside = [one for one in candidates if shows(series, one.ra_deg, one.dec_deg) and _minutes_apart(series, one) < FAR_MIN]

    def distance(candidate: Candidate) -> tuple[float, float, float]:
        exposures = series.exposure_s / candidate.exposure_s if candidate.exposure_s > 0.0 else 1.0
        off = abs(float(np.log(exposures))) if exposures > 0.0 else 0.0  # NaN: not known
        apart = separation_deg(series.ra_deg, series.dec_deg, candidate.ra_deg, candidate.dec_deg)
        return _minutes_apart(series, candidate), off if np.isfinite(off) else 0.0, apart

    if inside:
        return Match(min(inside, key=distance).number, "planned")
    return Match(None, "target" if any(shows(series, ra, dec) for ra, dec in targets) else "other field")
