"""Which angles the frame of a rig can take, and what becomes of it when the sky goes over the meridian."""

from dataclasses import dataclass

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.parts import Counterweight, LensRing, Tracker

BARE_DEG = (0.0, 90.0)  # a camera on a bare bracket lies along the axis or across it


@dataclass(frozen=True)
class Angles:
    """only_deg: position angles of the upper edge that can be taken; none: any. why and meridian: sentences."""

    only_deg: tuple[float, ...] | None
    why: str
    meridian: str


def angles_of(assembly: Assembly) -> Angles:
    """By what holds the camera. Common practice, no source."""
    lens = assembly.lens
    ring = (lens is not None and lens.collar) or bool(assembly.all(LensRing))
    if assembly.first(Tracker) is None:
        return Angles(None, "Nothing tracks: the frame turns with the sky, and the head takes any angle.", "")
    held = assembly.support
    over = bool(assembly.all(Counterweight)) and held == "bracket"
    meridian = (
        "Past the meridian the bracket goes over to the other side: the frame stands upside down, by 180°. It holds the same sky; "
        "take flats for both."
        if over
        else "It follows through the meridian; the frame stays as it is."
    )
    if held == "ball head":
        why = (
            "A ball head takes any angle, but not in every direction: its slot and the tripod’s legs are in the way of some. "
            "Moving it in declination also turns the frame."
        )
        return Angles(None, why, meridian)
    if ring:
        return Angles(None, "The lens turns freely in its collar or ring.", meridian)
    if held == "bracket":
        return Angles(BARE_DEG, "A bare bracket holds the camera along right ascension or across it: 0° or 90°.", meridian)
    return Angles(None, "Nothing in the rig says how the camera is held; any angle is taken for possible.", meridian)
