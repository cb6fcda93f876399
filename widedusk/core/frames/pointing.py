"""Where one picture looks."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from widedusk.core.frames.matched import Matched


@dataclass(frozen=True)
class Pointing:
    """ICRS at J2000.0, degrees. angle_deg: position angle of the upper edge, north through east; scale of the file's pixels."""

    ra_deg: float
    dec_deg: float
    angle_deg: float
    scale_arcsec_px: float
    width_deg: float
    height_deg: float
    mirrored: bool
    stars: int

    @classmethod
    def kept(cls, told: Mapping[str, Any]) -> "Pointing":
        """As it was stored, by whatever version of this."""
        return cls(**{one.name: told[one.name] for one in fields(cls)})


def pointing(matched: Matched, width_px: int, height_px: int, binning: int) -> Pointing:
    """Read a solved picture. width_px, height_px: of the plane that was solved."""
    toward = matched.toward
    ra = float(np.arctan2(toward[2, 1], toward[2, 0]) % (2 * np.pi))
    dec = float(np.arcsin(np.clip(toward[2, 2], -1.0, 1.0)))
    north = np.array([0.0, 0.0, 1.0]) - toward[2, 2] * toward[2]
    east = np.cross([0.0, 0.0, 1.0], toward[2])
    up = -toward[1]
    angle = float(np.degrees(np.arctan2(up @ east / np.linalg.norm(east), up @ north / np.linalg.norm(north))) % 360.0)
    half_x, half_y = width_px / 2 / matched.focal_px, height_px / 2 / matched.focal_px
    return Pointing(
        np.degrees(ra).item(),
        np.degrees(dec).item(),
        angle,
        float(np.degrees(1.0 / matched.focal_px) * 3600.0 / binning),
        float(np.degrees(2 * np.arctan(half_x))),
        float(np.degrees(2 * np.arctan(half_y))),
        matched.mirrored,
        int(matched.x.size),
    )
