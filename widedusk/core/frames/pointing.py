"""Where one picture looks, and how to get from there to the target."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.frames.matched import Matched
from widedusk.core.scene import Target
from widedusk.core.sky.places import star_vectors, unit_vectors
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Quantity, Verdict, Working

ON_TARGET_FRAMES = 0.03  # nearer than this to the middle, nudging makes it worse. Our own


@dataclass(frozen=True)
class Pointing:
    """ICRS at J2000.0, degrees. angle_deg: position angle of the upper edge, north through east; scale of the file's pixels.

    With a target: how far it lies from the middle, west and north positive, and where in the picture, in whole frames.
    """

    ra_deg: float
    dec_deg: float
    angle_deg: float
    scale_arcsec_px: float
    width_deg: float
    height_deg: float
    mirrored: bool
    stars: int
    west_min: float | None = None  # minutes of right ascension
    north_deg: float | None = None
    apart_deg: float | None = None
    right_frames: float | None = None
    down_frames: float | None = None


def _ra_dec(vector: Floats) -> tuple[float, float]:
    return float(np.arctan2(vector[1], vector[0]) % (2 * np.pi)), float(np.arcsin(np.clip(vector[2], -1.0, 1.0)))


def pointing(matched: Matched, width_px: int, height_px: int, binning: int, mjd: float | None, target: Target | None) -> Pointing:
    """Read a solved picture. width_px, height_px: of the plane that was solved. mjd: for moves about the pole of date."""
    toward = matched.toward
    ra, dec = _ra_dec(toward[2])
    north = np.array([0.0, 0.0, 1.0]) - toward[2, 2] * toward[2]
    east = np.cross([0.0, 0.0, 1.0], toward[2])
    up = -toward[1]
    angle = float(np.degrees(np.arctan2(up @ east / np.linalg.norm(east), up @ north / np.linalg.norm(north))) % 360.0)
    half_x, half_y = width_px / 2 / matched.focal_px, height_px / 2 / matched.focal_px
    found = Pointing(
        np.degrees(ra).item(),
        np.degrees(dec).item(),
        angle,
        float(np.degrees(1.0 / matched.focal_px) * 3600.0 / binning),
        float(np.degrees(2 * np.arctan(half_x))),
        float(np.degrees(2 * np.arctan(half_y))),
        matched.mirrored,
        int(matched.x.size),
    )
    if target is None:
        return found
    aim = unit_vectors(np.radians(target.ra_deg), np.radians(target.dec_deg))
    both = np.stack([aim, toward[2]])
    of_date = both if mjd is None else star_vectors(both, mjd)
    (aim_ra, aim_dec), (here_ra, here_dec) = _ra_dec(of_date[0]), _ra_dec(of_date[1])
    away = (here_ra - aim_ra + np.pi) % (2 * np.pi) - np.pi  # right ascension falls to the west
    camera = toward @ aim
    ahead = camera[2] > 0.05
    side = -1.0 if matched.mirrored else 1.0
    return Pointing(
        **{
            **found.__dict__,
            "west_min": float(np.degrees(away) * 4.0),
            "north_deg": float(np.degrees(aim_dec - here_dec)),
            "apart_deg": float(np.degrees(np.arctan2(np.linalg.norm(np.cross(aim, toward[2])), aim @ toward[2]))),
            "right_frames": float(side * camera[0] / camera[2] / (2 * half_x)) if ahead else None,
            "down_frames": float(camera[1] / camera[2] / (2 * half_y)) if ahead else None,
        }
    )


def _sides(found: Pointing) -> str:
    """Where the target lies in the picture, in words."""
    if found.right_frames is None or found.down_frames is None:
        return "It lies behind the camera."
    words = []
    if abs(found.right_frames) >= 0.02:
        words.append(f"{abs(found.right_frames):.2f} of its width to the {'right' if found.right_frames > 0 else 'left'}")
    if abs(found.down_frames) >= 0.02:
        words.append(f"{abs(found.down_frames):.2f} of its height {'down' if found.down_frames > 0 else 'up'}")
    inside = max(abs(found.right_frames), abs(found.down_frames)) <= 0.5
    place = f"{' and '.join(words)} from the middle" if words else "in the middle"
    return f"The target lies {'in' if inside else 'outside'} the picture, {place}."


def pointing_verdict(found: Pointing, target: Target | None) -> Verdict:
    """Where the picture looks, and the move to the target."""
    place = f"{found.ra_deg / 15:.3f} h, {found.dec_deg:+.2f}°"
    working = Working(
        "solved",
        "Where the picture looks",
        "four-star patterns name the stars; then all of them fix attitude, focal length and the bend of the corners",
        (
            Quantity("Stars that fit", found.stars, decimals=0),
            Quantity("Scale of the file's pixels", found.scale_arcsec_px, "″/px", "s", 2),
        ),
        Quantity("Middle, J2000", text=place),
        "Pettersson 2023, patterns; Gaia DR3 and Hipparcos, places; least squares",
        "published",
        "The picture is mirrored and was read as such." if found.mirrored else "",
    )
    figures: tuple[Quantity, ...] = (
        Quantity("Right ascension", found.ra_deg / 15, "h", decimals=3, working="solved"),
        Quantity("Declination", found.dec_deg, "°", decimals=2, working="solved"),
        Quantity("Upper edge, north through east", found.angle_deg, "°", decimals=1, working="solved"),
        Quantity("Frame", text=f"{found.width_deg:.1f}° × {found.height_deg:.1f}°", working="solved"),
    )
    if target is None or found.apart_deg is None or found.west_min is None or found.north_deg is None:
        return Verdict("Pointing", "go", f"You are at {place}.", f"{found.stars} stars", figures=figures, workings=(working,))
    move = Working(
        "move",
        "The move to the target",
        "Δα, Δδ between target and middle, of the equator of date",
        (
            Quantity("Target", text=f"{target.ra_deg / 15:.3f} h, {target.dec_deg:+.2f}°"),
            Quantity("Middle", text=place, working="solved"),
        ),
        Quantity("Apart", found.apart_deg, "°", decimals=2),
        "Spherical trigonometry; precession IAU 2006 through ERFA",
        "definition",
    )
    figures = (Quantity("Apart", found.apart_deg, "°", decimals=2, working="move"), *figures)
    if max(abs(found.right_frames or 9.0), abs(found.down_frames or 9.0)) <= ON_TARGET_FRAMES:
        sentence = f"You are on {target.name}, {found.apart_deg * 60:.0f}′ off the middle. Lock it."
    else:
        west, north = ("west" if found.west_min > 0 else "east"), ("north" if found.north_deg > 0 else "south")
        sentence = (
            f"You are {found.apart_deg:.1f}° short of {target.name}: turn right ascension {abs(found.west_min):.1f} min {west}, "
            f"declination {abs(found.north_deg):.1f}° {north}."
        )
    return Verdict("Pointing", "go", sentence, f"{found.stars} stars", _sides(found), figures, workings=(working, move))
