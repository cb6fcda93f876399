"""A picture whose stars have names."""

from dataclasses import dataclass

from widedusk.core.sky.time import Floats


@dataclass(frozen=True)
class Matched:
    """Sources and the stars they are; x of a mirrored picture is turned round already.

    `toward` turns ICRS vectors into the camera's frame (x right, y down, z forward).
    """

    x: Floats
    y: Floats
    vectors: Floats  # ICRS, shape (n, 3)
    v_magnitude: Floats  # Johnson V; NaN where the colour is not known
    colour: Floats  # BP − RP of Gaia
    toward: Floats  # rotation matrix, shape (3, 3)
    focal_px: float
    bend: float  # stretch of the corner, as a share of its radius
    mirrored: bool
