"""A whole rig from what is in one's hand: class of camera, focal length and f-number, class of tracker or none.

Every figure nobody gave is typical of its class, from memory, and marked as by the book until somebody gives a better one.
"""

from dataclasses import replace
from typing import Any, Literal, TypeVar, cast

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.kit.assembly import Assembly, Placed, usual_place
from widedusk.core.kit.balance import balance
from widedusk.core.kit.described import abouts
from widedusk.core.kit.parts import (
    USUAL_STAR_PX,
    BallHead,
    Battery,
    Bracket,
    Camera,
    Counterweight,
    Lens,
    Part,
    Shaft,
    Timer,
    Tracker,
    Tripod,
)

CameraClass = Literal["full frame", "crop sensor", "four thirds", "one inch", "cooled astronomy camera"]
TrackerClass = Literal["none", "light tracker", "sturdy tracker", "small mount"]
# Masses, pixels and drives from memory: middles of what is sold.
CAMERAS: dict[CameraClass, dict[str, Any]] = {
    "full frame": {"mass_g": 700, "width_mm": 36.0, "height_mm": 24.0, "pitch_um": 6.0, "raw_file_mb": 30.0},
    "crop sensor": {"mass_g": 500, "width_mm": 23.5, "height_mm": 15.6, "pitch_um": 4.0, "raw_file_mb": 30.0},
    "four thirds": {"mass_g": 450, "width_mm": 17.3, "height_mm": 13.0, "pitch_um": 3.5, "raw_file_mb": 20.0},
    "one inch": {"mass_g": 300, "width_mm": 13.2, "height_mm": 8.8, "pitch_um": 2.4, "raw_file_mb": 20.0},
    "cooled astronomy camera": {
        **{"mass_g": 700, "width_mm": 23.5, "height_mm": 15.7, "pitch_um": 3.8, "raw_file_mb": 50.0},
        **{"dark_e_s": 0.003, "hydrogen_percent": 95.0, "volts": 12.0, "amps": 2.5},
    },
}
TRACKERS: dict[TrackerClass, dict[str, Any]] = {
    "light tracker": {"mass_g": 1100, "rating_g": 3000, "pe_half_amplitude_arcsec": 25.0, "latitude_base": True},
    "sturdy tracker": {"mass_g": 1500, "rating_g": 5000, "pe_half_amplitude_arcsec": 20.0, "latitude_base": True},
    "small mount": {
        **{"mass_g": 4500, "rating_g": 10_000, "pe_half_amplitude_arcsec": 15.0, "pe_period_s": 600.0},
        **{"latitude_base": True, "guide_axes": "both axes", "volts": 12.0, "amps": 0.5},
    },
}
P = TypeVar("P", bound=Part)
Ends = tuple[float, float]  # of a zoom, the smaller first; twice the same of a prime
A_STOP = 2.0**0.5
MB_A_MEGAPIXEL = 1.2  # of a raw file; from memory
OPEN_ENOUGH = 4.0  # from here on lenses are usually good wide open
BRACKET_FROM_MM = 135.0


def lens_mass_g(focal_mm: float, f_number: float) -> float:
    """About what a lens weighs: glass goes with the area of its front. From memory, within a third."""
    return float(round(150.0 + 0.5 * focal_mm + 0.15 * (focal_mm / f_number) ** 2, -1))


def _by_the_book(part: P, *said: str) -> P:
    """The same part, all its figures typical but those that were said."""
    named = ((name, about) for name, about, _ in abouts(type(part)) if about.sort in {"number", "whole"})
    known = {name: "book" for name, about in named if name not in said and getattr(part, name) is not None}
    return replace(part, origins=tuple(sorted((dict(part.origins) | known).items())))  # type: ignore[arg-type]


def _both_ends(given: float | Ends) -> Ends:
    return given if isinstance(given, tuple) else (given, given)


def _lens(focal: Ends, f_number: Ends) -> Lens:
    """A prime, or a zoom where the ends differ; one that closes down does so at its long end."""
    (short, long), (widest, closed) = focal, f_number
    good = widest if widest >= OPEN_ENOUGH else min(round(widest * A_STOP, 1), OPEN_ENOUGH)
    name = f"{short:g}" + (f"–{long:g}" if long > short else "") + f" mm f/{widest:g}" + (f"–{closed:g}" if closed > widest else "")
    return Lens(
        f"{name} lens",
        lens_mass_g(long, closed),
        short,
        widest,
        max(good, widest),
        focal_long_mm=long if long > short else None,
        f_widest_long=closed if closed > widest else None,
    )


def typical_camera(camera: CameraClass, megapixels: float | None = None) -> Camera:
    """A body of a class; its pixels are as large as so many millions of them leave room for.

    Raises InvalidInput for a number that no camera has.
    """
    usual, name = CAMERAS[camera], f"{camera[0].upper()}{camera[1:]}"
    if megapixels is None:
        return _by_the_book(Camera(name, **usual))
    checks = Checks()
    checks.within("megapixels", megapixels, 1, 200)
    checks.done()
    pitch = round((usual["width_mm"] * usual["height_mm"] / megapixels) ** 0.5, 2)
    told = {**usual, "pitch_um": pitch, "raw_file_mb": round(MB_A_MEGAPIXEL * megapixels)}
    return _by_the_book(Camera(f"{name}, {megapixels:g} MP", **told), "pitch_um")


def typical_lens(focal_mm: float | Ends, f_number: float | Ends) -> Lens:
    """Both ends of a zoom, which is set to its short one.

    Raises InvalidInput for a focal length or f-number that cannot be right, and for two f-numbers of one focal length.
    """
    focal, stops = _both_ends(focal_mm), _both_ends(f_number)
    checks = Checks()
    for end in dict.fromkeys(focal):
        checks.within("focal_mm", end, 4, 3_000, "mm")
    for end in dict.fromkeys(stops):
        checks.within("f_number", end, 0.7, 32)
    if stops[1] > stops[0] and focal[1] <= focal[0]:
        checks.fault("f_number", f"{stops[0]:g}-{stops[1]:g}", "One focal length opens to one f-number; give the smaller.")
    checks.done()
    return _by_the_book(_lens(focal, stops), "focal_mm", "f_widest", "focal_long_mm", "f_widest_long")


def with_another_lens(rig: Assembly, lens: Lens) -> Assembly:
    """The same rig with this lens in the place of its own, balanced anew. Raises InvalidInput where it has none."""
    if not any(isinstance(one.part, Lens) for one in rig.placed):
        raise InvalidInput([Fault("like", rig.name, f"“{rig.name}” has no lens to put another in the place of.")])
    placed = tuple(replace(one, part=lens) if isinstance(one.part, Lens) else one for one in rig.placed)
    title = f"{rig.name}, {lens.name.split(' f/')[0]}"
    return _balanced(replace(rig, name=title, placed=placed, focal_mm=None, star_fwhm_px=USUAL_STAR_PX, star_origin="book"))


def typical_rig(
    camera: CameraClass, focal_mm: float | Ends, f_number: float | Ends, tracker: TrackerClass, megapixels: float | None = None
) -> Assembly:
    """A rig that can be worked with at once. Raises InvalidInput for what cannot be right of lens and camera."""
    checks = Checks()
    lens = cast("Lens", checks.of(lambda: typical_lens(focal_mm, f_number)))
    body = cast("Camera", checks.of(lambda: typical_camera(camera, megapixels)))
    checks.done()
    focal = _both_ends(focal_mm)
    cooled = camera == "cooled astronomy camera"
    cell = Battery("Power pack", 4000, 400, volts=12) if cooled else Battery("Power for the camera", 0, 75, volts=7.2)
    parts: list[tuple[Part, str | None]] = [(body, cell.name), (lens, None)]
    below: list[tuple[Part, str | None]] = [(cell, None), (Tripod("Tripod", 1800), None), (Timer("Intervalometer", 0), None)]
    bracket = tracker != "none" and focal[1] >= BRACKET_FROM_MM
    parts.append((Bracket("Bracket", 300), None) if bracket else (BallHead("Ball head", 400), None))
    if tracker != "none":
        drive = Tracker(f"{tracker[0].upper()}{tracker[1:]}", **TRACKERS[tracker])
        fed = cell
        if cell.volts != drive.volts:
            fed = Battery("Power for the tracker", 0, 12.0 if drive.volts < 12 else 150.0, volts=drive.volts)
        if fed is not cell:
            below.append((fed, None))
        below.append((_by_the_book(drive), fed.name))
    if bracket:
        parts += [(Shaft("Shaft", 200, 200), None), (Counterweight("Counterweight", 1000), None)]
    named = [(one if one in (body, lens) else _by_the_book(one), fed) for one, fed in (*parts, *below)]
    all_parts = [one for one, _ in named]
    placed = tuple(Placed(one, *usual_place(one, all_parts), one.CARRIED, fed) for one, fed in named)
    title = f"{body.name}, {lens.name.split(' f/')[0]}" + ("" if tracker == "none" else f", {tracker}")
    return _balanced(Assembly(title, placed, USUAL_STAR_PX, star_origin="book"))


def _balanced(rig: Assembly) -> Assembly:
    """With the counterweight where it belongs, if it reaches."""
    found = balance(rig, 0.0)
    if found.weight is None or found.solved_mm is None or not found.fits:
        return rig
    name, arm = found.weight.name, round(found.solved_mm)
    return replace(rig, placed=tuple(replace(one, arm_mm=float(arm)) if one.name == name else one for one in rig.placed))
