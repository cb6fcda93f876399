"""A camera on a tracker that do not exist, which write pictures into a folder as a real one writes them on its card.

What it is aimed at, how crooked its axis stands and what its clock says is told by whoever presses the button.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from widedusk.core.catalogue.stars import stars, v_magnitude
from widedusk.core.simulate.camera import Camera, CardHeader, Pointing, Shot, as_jpeg
from widedusk.core.simulate.mount import Mount

FAINTEST = 9.8


@dataclass(frozen=True)
class Press:
    """One press of the button. start: UTC; seconds: since the tracker was started; by_hand_deg: turned about its axis before."""

    name: str
    start: datetime
    seconds: float = 0.0
    by_hand_deg: float = 0.0
    exposure_s: float = 10.0
    iso: int = 1600


def take(folder: Path, camera: Camera, mount: Mount, pointing: Pointing, press: Press, utc_offset_min: int, clip_e: float) -> Path:
    """Write one JPEG. clip_e: electrons at which the picture is white."""
    known = stars()
    bright = known.magnitude < FAINTEST
    ra = np.arctan2(known.vectors[bright, 1], known.vectors[bright, 0])
    dec = np.arcsin(known.vectors[bright, 2])
    shot = Shot(press.start, press.exposure_s, press.seconds, press.by_hand_deg)
    gaia_g = known.magnitude[bright]
    v = v_magnitude(gaia_g, known.colour[bright])
    rendered = camera.take(ra, dec, np.where(np.isfinite(v), v, gaia_g), pointing, mount, shot)
    zone = timezone(timedelta(minutes=utc_offset_min))
    sign, minutes = ("-" if utc_offset_min < 0 else "+"), abs(utc_offset_min)
    offset = f"{sign}{minutes // 60:02d}:{minutes % 60:02d}"
    header = CardHeader(press.start.astimezone(zone), press.exposure_s, camera.lens.focal_mm, offset, press.iso)
    path = folder / press.name
    path.write_bytes(as_jpeg(rendered.electrons, clip_e, header))
    return path
