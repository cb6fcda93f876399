"""A frame on the sky and the flat picture it makes.

           up  u        c: towards the middle of the frame
            |           u: towards its upper edge, r: towards its right one
      ------+------     a direction v falls on the picture at   x = v·r / v·c,  y = -v·u / v·c
      |     c---r |     (x right, y down, in units of the focal length: the gnomonic or TAN projection,
      -------------      Calabretta & Greisen 2002, A&A 395, 1077)

Seen from inside the sphere, north up, east is to the left.
"""

from dataclasses import dataclass

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.kit.optics import field_of_view_rad
from widedusk.core.kit.parts import Rig
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats

WIDEST_DEG = 150.0  # of one side: beyond this no lens draws straight lines


@dataclass(frozen=True)
class Frame:
    """ICRS centre; angle_deg: position angle of the upper edge, north through east; sides across the middle."""

    ra_deg: float
    dec_deg: float
    angle_deg: float
    width_deg: float
    height_deg: float

    def __post_init__(self) -> None:
        checks = Checks()
        checks.within("ra_deg", self.ra_deg, 0, 360, "°")
        checks.within("dec_deg", self.dec_deg, -90, 90, "°")
        checks.within("angle_deg", self.angle_deg, -360, 360, "°")
        checks.within("width_deg", self.width_deg, 0.01, WIDEST_DEG, "°")
        checks.within("height_deg", self.height_deg, 0.01, WIDEST_DEG, "°")
        checks.done()

    @property
    def half(self) -> Floats:
        """Half its width and height in units of the focal length, shape (2,)."""
        return np.asarray(np.tan(np.radians([self.width_deg, self.height_deg]) / 2.0))


def sides_deg(rig: Rig) -> tuple[float, float]:
    """Width and height of a rig's frame, as the camera lies: degrees across the middle."""
    width, height = (
        float(np.degrees(field_of_view_rad(side, rig.lens.focal_mm))) for side in (rig.camera.width_mm, rig.camera.height_mm)
    )
    return width, height


# Of a frame: less than this shows as a spot, more leaves nothing of it to be seen. Our own
MIN_SHARE, MAX_SHARE = 0.03, 2.0


def share_of_frame(extent_deg: Floats | float, width_deg: Floats | float, sides: tuple[float, float]) -> Floats:
    """How much of a frame something fills, along the tighter side; its long side lies along the frame's. sides: in any order."""
    return np.maximum(np.asarray(extent_deg) / max(sides), np.asarray(width_deg) / min(sides))


def axes(ra_deg: float, dec_deg: float, angle_deg: float) -> Floats:
    """Rows r, u, c of a frame at this centre and angle, shape (3, 3). At a pole, north is that of its right ascension."""
    ra, dec, angle = np.radians([ra_deg, dec_deg, angle_deg])
    c = unit_vectors(np.asarray(ra), np.asarray(dec))
    east = np.array([-np.sin(ra), np.cos(ra), 0.0])
    north = np.array([-np.sin(dec) * np.cos(ra), -np.sin(dec) * np.sin(ra), np.cos(dec)])
    # c × north = -east and c × east = north
    return np.stack([np.sin(angle) * north - np.cos(angle) * east, np.cos(angle) * north + np.sin(angle) * east, c])


def ra_dec_deg(vectors: Floats) -> tuple[Floats, Floats]:
    """Right ascension 0 to 360 and declination of directions of any length, shape (..., 3)."""
    x, y, z = np.moveaxis(np.asarray(vectors, dtype=float), -1, 0)
    return np.degrees(np.arctan2(y, x)) % 360.0, np.degrees(np.arctan2(z, np.hypot(x, y)))


def position_angle_deg(up: Floats, ra_deg: float, dec_deg: float) -> float:
    """Position angle, -180 to 180, of a direction `up` along the sky at a place."""
    west, north, _ = axes(ra_deg, dec_deg, 0.0)
    return float(np.degrees(np.arctan2(-up @ west, up @ north)))


def on_picture(frame: Frame, vectors: Floats) -> tuple[Floats, Floats]:
    """Where directions, shape (..., 3), fall: x right and y down in focal lengths. NaN for what lies behind the camera."""
    r, u, c = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
    ahead = vectors @ c
    with np.errstate(divide="ignore", invalid="ignore"):
        depth = np.where(ahead > 1e-6, ahead, np.nan)
        return vectors @ r / depth, -(vectors @ u) / depth


def from_picture(frame: Frame, x: Floats, y: Floats) -> Floats:
    """Unit vectors of places on the picture, x right and y down in focal lengths, shape (..., 3)."""
    r, u, c = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
    found = c + np.asarray(x)[..., None] * r - np.asarray(y)[..., None] * u
    return np.asarray(found / np.linalg.norm(found, axis=-1, keepdims=True))


def corners(frame: Frame) -> Floats:
    """Unit vectors of the corners: upper left, upper right, lower right, lower left; shape (4, 3)."""
    x, y = frame.half
    return from_picture(frame, np.array([-x, x, x, -x]), np.array([-y, -y, y, y]))


def holds(frame: Frame, vectors: Floats, slack: float = 1e-12) -> Floats:
    """Whether directions, shape (..., 3), lie inside; shape (...)."""
    x, y = on_picture(frame, vectors)
    return np.asarray((np.abs(x) <= frame.half[0] + slack) & (np.abs(y) <= frame.half[1] + slack))


@dataclass(frozen=True)
class Subject:
    """Something that shall be in the picture: an ellipse on the sky, as the catalogue has it."""

    name: str
    ra_deg: float
    dec_deg: float
    long_deg: float = 0.0
    short_deg: float | None = None  # none: as wide as long
    angle_deg: float = 0.0  # position angle of the long side

    def __post_init__(self) -> None:
        checks = Checks()
        checks.line("name", self.name)
        checks.within("ra_deg", self.ra_deg, 0, 360, "°")
        checks.within("dec_deg", self.dec_deg, -90, 90, "°")
        checks.within("long_deg", self.long_deg, 0, 120, "°")
        if self.short_deg is not None:
            checks.within("short_deg", self.short_deg, 0, 120, "°")
        checks.within("angle_deg", self.angle_deg, -360, 360, "°")
        checks.done()


EDGE_POINTS = 128  # on the edge of an ellipse: between two of them it bulges by 3 in 10,000 of its half side


def outline(subject: Subject) -> Floats:
    """Unit vectors around the edge of a subject, shape (128, 3): an ellipse on the plane that touches the sky at its middle."""
    r, u, c = axes(subject.ra_deg, subject.dec_deg, subject.angle_deg)
    turn = np.linspace(0.0, 2.0 * np.pi, EDGE_POINTS, endpoint=False)
    short_deg = subject.long_deg if subject.short_deg is None else subject.short_deg
    along, across = np.tan(np.radians([subject.long_deg, short_deg]) / 2.0)
    found = c + along * np.cos(turn)[:, None] * u + across * np.sin(turn)[:, None] * r
    return np.asarray(found / np.linalg.norm(found, axis=1, keepdims=True))
