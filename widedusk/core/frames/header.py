"""What a picture's file says of itself."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

Kind = Literal["JPEG", "TIFF", "FITS", "raw"]
MOST_PICTURE_BYTES = 200_000_000


@dataclass(frozen=True)
class Header:
    """What the file says of itself; none where it says nothing. `taken`: the camera's own clock when the exposure began."""

    kind: Kind
    width_px: int
    height_px: int
    taken: datetime | None = None
    utc_offset_min: int | None = None  # of that clock
    exposure_s: float | None = None
    focal_mm: float | None = None
    iso: int | None = None
    f_number: float | None = None
    camera: str = ""
