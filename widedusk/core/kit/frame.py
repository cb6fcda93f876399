"""What one frame of a rig holds."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.kit.optics import field_of_view_rad
from widedusk.core.kit.parts import Rig


@dataclass(frozen=True)
class Frame:
    """Field of a rig in degrees, and whether its filter passes narrow bands only."""

    long_deg: float
    short_deg: float
    narrow: bool


def frame_of(rig: Rig) -> Frame:
    """What the sensor sees through this lens."""
    long_mm, short_mm = max(rig.camera.width_mm, rig.camera.height_mm), min(rig.camera.width_mm, rig.camera.height_mm)
    long_rad, short_rad = (float(field_of_view_rad(side, rig.lens.focal_mm)) for side in (long_mm, short_mm))
    return Frame(float(np.degrees(long_rad)), float(np.degrees(short_rad)), rig.narrow)
