"""What one picture says of the lens it was taken with, light enough for whoever judges it."""

from dataclasses import asdict, dataclass
from typing import Any, Literal

from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS

ColourName = Literal["red", "green", "blue"]
CORNERS = (0, ZONE_COLUMNS - 1, ZONE_COLUMNS * (ZONE_ROWS - 1), ZONE_COLUMNS * ZONE_ROWS - 1)
CORNER_NAMES = ("upper left", "upper right", "lower left", "lower right")


@dataclass(frozen=True)
class Spot:
    """The typical star of a zone in one colour: variances and covariance of its light, pixels of the file squared, one pixel's own
    included, x right and y down; sigma: of its mean variance."""

    stars: int
    xx: float
    yy: float
    xy: float
    sigma: float


@dataclass(frozen=True)
class Parted:
    """How far one colour lies from green. stretch: towards the corner, pixels of the file there; right, down: everywhere alike."""

    stretch: float
    sigma: float
    right: float
    down: float


@dataclass(frozen=True)
class Spikes:
    """Rays about bright stars. count: 0 where none stand out; share: of the light around a star that lies in them beyond the even
    part."""

    count: int
    share: float


@dataclass(frozen=True)
class LensPicture:
    """What one picture says of the lens. zones: row by row from the upper left, by colour, green alone where there is no colour.
    corner_light: share of the middle's light that reaches the corners; none where the sky is too dark to tell."""

    f_number: float | None
    exposure_s: float | None
    focal_mm: float | None
    width_px: int
    height_px: int
    stars: int
    zones: dict[ColourName, tuple[Spot | None, ...]]
    parted: dict[ColourName, Parted]
    corner_light: float | None
    corner_sigma: float | None
    spikes: Spikes
    curved: bool

    def kept(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def of(cls, kept: dict[str, Any]) -> "LensPicture":
        """From what was kept as plain values; what an earlier version kept beyond these is passed over."""
        kept = {name: kept[name] for name in cls.__dataclass_fields__}
        zones = {name: tuple(Spot(**one) if one else None for one in spots) for name, spots in kept["zones"].items()}
        parted = {name: Parted(**one) for name, one in kept["parted"].items()}
        return cls(**{**kept, "zones": zones, "parted": parted, "spikes": Spikes(**kept["spikes"])})
