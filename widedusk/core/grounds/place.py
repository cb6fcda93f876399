"""A place as it is told: where, how dark, what to mind, and the spots one can stand on."""

from collections.abc import Sequence
from dataclasses import dataclass

MOST_NOTE = 2_000
MOST_SPOTS = 30


@dataclass(frozen=True)
class SpotInput:
    id: int | None  # of the record it replaces
    name: str
    horizon: Sequence[tuple[float, float]]  # azimuth and altitude in degrees


@dataclass(frozen=True)
class PlaceInput:
    name: str
    latitude_deg: float
    longitude_deg: float
    height_m: float | None  # none: nobody gave it
    time_zone: str  # empty: as the coordinates say
    sky_mag: float
    spots: Sequence[SpotInput]
    access: str = ""  # how to get there, whom to ask, local rules
    caution: str = ""  # what can hurt there
