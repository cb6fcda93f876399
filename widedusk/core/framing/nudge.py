"""The next nudge: from where the camera looks to where it shall look, in the three motions a hand can make.

A tracker with a bracket moves about two axes: right ascension about the pole, declination across it. Neither turns the picture
against north, so the order is right ascension, declination, then the camera in its ring by what is left. A ball head moves the
camera along its own sides; that carries the picture along a great circle and leaves another turn at the end.
"""

from dataclasses import dataclass, replace

import numpy as np

from widedusk.core.frames.pointing import Pointing
from widedusk.core.framing.frame import Frame, axes, from_picture, on_picture, position_angle_deg, ra_dec_deg
from widedusk.core.kit.parts import Support
from widedusk.core.sky.places import star_vectors
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Limit, Quantity, Verdict, Working

THERE_FRAMES = 0.05  # of the side it is off along: a twentieth. Our own
THERE_TURN_DEG = 2.0  # of one night's frame; at the corner of a 3:2 frame that is a fiftieth of its long side
AGAIN_PX, AGAIN_TURN_DEG = 50.0, 0.5  # of a frame gathered over several nights, as practitioners ask. Common practice, no source


@dataclass(frozen=True)
class Nudge:
    """West, north and counter-clockwise are positive; right and down are where the wanted middle lies in the picture.

    west_min: of right ascension, of date. turn_deg: of the camera, counter-clockwise as one looks through it, after moving in
    right ascension and declination; ball_turn_deg: after moving along its own sides instead. right_frames, down_frames: none where
    the middle lies behind the camera.
    """

    apart_deg: float
    west_min: float
    north_deg: float
    turn_deg: float
    ball_turn_deg: float
    right_frames: float | None
    down_frames: float | None
    there: bool

    @property
    def off_frames(self) -> float:
        """How far the wanted middle lies from that of the picture, in frames along the worse side."""
        if self.right_frames is None or self.down_frames is None:
            return float("inf")
        return max(abs(self.right_frames), abs(self.down_frames))


def _turned(degrees: float, half_will_do: bool = False) -> float:
    """-180 to 180; where a frame upside down is the same frame, -90 to 90."""
    around = 180.0 if half_will_do else 360.0
    return (degrees + around / 2.0) % around - around / 2.0


def carried_angle_deg(frame: Frame, towards: Floats) -> float:
    """Position angle of a frame after it was carried along the great circle to a direction, without being turned."""
    _, up, ahead = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
    axis = np.cross(ahead, towards)
    length = float(np.linalg.norm(axis))
    ra, dec = ra_dec_deg(towards)
    if length < 1e-12:
        return position_angle_deg(up, float(ra), float(dec))
    axis, cos = axis / length, float(ahead @ towards)
    moved = cos * up + length * np.cross(axis, up) + (1.0 - cos) * (axis @ up) * axis
    return position_angle_deg(moved, float(ra), float(dec))


def nudge(here: Frame, wanted: Frame, mjd: float | None = None, mirrored: bool = False, again_px: float | None = None) -> Nudge:
    """How to get from one frame to another of its size.

    mjd: right ascension and declination are turned about the pole of that date, not of J2000.0. mirrored: the picture is.
    again_px: focal length in pixels, where it shall be the very frame of another night; then "there" means within 50 px and 0.5°.
    """
    aim = from_picture(wanted, np.array(0.0), np.array(0.0))
    at = from_picture(here, np.array(0.0), np.array(0.0))
    both = np.stack([aim, at])
    ra, dec = ra_dec_deg(both if mjd is None else star_vectors(both, mjd))
    away = _turned(float(ra[1] - ra[0]))  # right ascension falls to the west
    x, y = on_picture(here, aim)
    seen = bool(np.isfinite(x))
    right = float(x / (2.0 * here.half[0])) * (-1.0 if mirrored else 1.0) if seen else None
    down = float(y / (2.0 * here.half[1])) if seen else None
    turn = _turned(wanted.angle_deg - here.angle_deg, half_will_do=again_px is None)
    ball = _turned(wanted.angle_deg - carried_angle_deg(here, aim), half_will_do=again_px is None)
    if right is None or down is None:
        there = False
    elif again_px is None:
        there = max(abs(right), abs(down)) <= THERE_FRAMES and abs(turn) <= THERE_TURN_DEG
    else:
        there = float(np.hypot(x, y)) * again_px <= AGAIN_PX and abs(turn) <= AGAIN_TURN_DEG
    apart = float(np.degrees(np.arctan2(np.linalg.norm(np.cross(aim, at)), aim @ at)))
    sign = -1.0 if mirrored else 1.0
    return Nudge(apart, away * 4.0, float(dec[0] - dec[1]), sign * turn, sign * ball, right, down, there)


def looks_at(found: Pointing) -> Frame:
    """What a solved picture holds."""
    return Frame(found.ra_deg, found.dec_deg, found.angle_deg % 360.0, found.width_deg, found.height_deg)


def nudge_to(found: Pointing, ra_deg: float, dec_deg: float, mjd: float | None) -> Nudge:
    """From a solved picture to a place, at whatever angle the camera stands. mjd: of the picture's middle."""
    here = looks_at(found)
    return nudge(here, replace(here, ra_deg=ra_deg % 360.0, dec_deg=dec_deg), mjd, found.mirrored)


def side_words(found: Nudge) -> str:
    """Where the wanted middle lies in the picture."""
    if found.right_frames is None or found.down_frames is None:
        return "behind the camera"
    words = []
    if abs(found.right_frames) >= 0.02:
        words.append(f"{abs(found.right_frames):.2f} of its width to the {'right' if found.right_frames > 0 else 'left'}")
    if abs(found.down_frames) >= 0.02:
        words.append(f"{abs(found.down_frames):.2f} of its height {'down' if found.down_frames > 0 else 'up'}")
    return f"{' and '.join(words)} from the middle" if words else "in the middle"


def turn_words(degrees: float) -> str:
    """How to turn the camera, as one looks through it."""
    return f"{abs(degrees):.1f}° {'counter-clockwise' if degrees > 0 else 'clockwise'}, as you look through it"


def axes_words(found: Nudge) -> str:
    """The move about right ascension and declination."""
    west, north = ("west" if found.west_min > 0 else "east"), ("north" if found.north_deg > 0 else "south")
    return (
        f"right ascension {abs(found.west_min):.1f} min ({abs(found.west_min) / 4.0:.2f}°) {west}, "
        f"declination {abs(found.north_deg):.2f}° {north}"
    )


def ball_words(found: Nudge) -> str:
    """The move along the picture's own sides: which way the camera is swung so that the middle comes to where it shall be."""
    if found.right_frames is None or found.down_frames is None:
        return "swing the camera right round: what you want lies behind it"
    words = []
    if abs(found.down_frames) >= 0.02:
        words.append(f"{'down' if found.down_frames > 0 else 'up'} by {abs(found.down_frames):.2f} of the picture's height")
    if abs(found.right_frames) >= 0.02:
        words.append(f"{'right' if found.right_frames > 0 else 'left'} by {abs(found.right_frames):.2f} of its width")
    return f"swing the camera {' and '.join(words)}" if words else "leave the camera where it looks"


def nudge_verdict(found: Nudge, name: str, support: Support, again: str = "") -> Verdict:
    """What to do next. name: of the framing. again: the night whose very frame is wanted; empty where any of its kind will do."""
    ball = support == "ball head"
    turn = found.ball_turn_deg if ball else found.turn_deg
    allowed = AGAIN_TURN_DEG if again else THERE_TURN_DEG
    turned = abs(turn) > allowed
    move = ball_words(found) if ball else f"turn {axes_words(found)}"
    if found.there:
        sentence = f"There: you are on {name}{f' as on {again}' if again else ''}. Lock it and tape the focus."
        advice = ""
    else:
        rotate = f"Then turn the camera {turn_words(turn)}. " if turned else ""
        sentence = f"{found.apart_deg:.2f}° to go: {move}."
        advice = f"{rotate}In the picture the middle you want lies {side_words(found)}."
    west, north = ("west" if found.west_min > 0 else "east"), ("north" if found.north_deg > 0 else "south")
    working = Working(
        "move",
        "The next nudge",
        "Δα, Δδ from the picture’s middle to the framing’s, about the pole of date; x, y of it in the picture, gnomonic",
        (
            Quantity("Apart", found.apart_deg, "°", decimals=3),
            Quantity("Right ascension, west positive", found.west_min, "min", "Δα", 2),
            Quantity("Declination, north positive", found.north_deg, "°", "Δδ", 3),
            Quantity("Camera, counter-clockwise positive", turn, "°", decimals=2),
        ),
        Quantity("Nudge", text=f"{move}{f', {turn_words(turn)}' if turned else ''}"),
        "Spherical trigonometry; gnomonic projection, Calabretta & Greisen 2002; precession IAU 2006 through ERFA",
        "definition",
        "A ball head carries the picture along its own sides; right ascension and declination leave it unturned against north.",
    )
    middle = Quantity("Middle", *((AGAIN_PX, "px") if again else (THERE_FRAMES * 100, "% of the frame")), decimals=0)
    return Verdict(
        "Nudge",
        "go" if found.there else "care",
        sentence,
        f"there within {'50 px' if again else 'a twentieth of the frame'} and {allowed:g}°",
        advice,
        (
            Quantity("Apart", found.apart_deg, "°", decimals=2, working="move"),
            Quantity("Right ascension", abs(found.west_min), f"min {west}", working="move"),
            Quantity("Declination", abs(found.north_deg), f"° {north}", decimals=2, working="move"),
            Quantity("Turn of the camera", turn, "°", decimals=1, working="move"),
        ),
        (
            Limit("Off the middle", "at most", middle, not found.there),
            Limit("Turned", "at most", Quantity("Turn", allowed, "°"), turned),
        ),
        (working,),
    )


def pointing_verdict(found: Pointing, name: str, move: Nudge) -> Verdict:
    """Where a picture looks, and the move to a place of this name."""
    place = f"{found.ra_deg / 15:.3f} h, {found.dec_deg:+.2f}°"
    solved = Working(
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
    figures = (
        Quantity("Right ascension", found.ra_deg / 15, "h", decimals=3, working="solved"),
        Quantity("Declination", found.dec_deg, "°", decimals=2, working="solved"),
        Quantity("Upper edge, north through east", found.angle_deg, "°", decimals=1, working="solved"),
        Quantity("Frame", text=f"{found.width_deg:.1f}° × {found.height_deg:.1f}°", working="solved"),
    )
    told = nudge_verdict(move, name, "bracket")
    if move.there:
        sentence = f"You are on {name}, {move.apart_deg * 60:.0f}′ off the middle. Lock it."
    else:
        sentence = f"You are {move.apart_deg:.1f}° short of {name}: turn {axes_words(move)}."
    return replace(
        told,
        topic="Pointing",
        level="go",
        sentence=sentence,
        binding=f"{found.stars} stars",
        advice=f"The target lies {side_words(move)}." if not move.there else "",
        figures=(told.figures[0], *figures),
        limits=(),
        workings=(solved, *told.workings),
    )
