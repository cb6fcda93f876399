"""Panels: a field larger than one frame, cut into frames that cover it on the sphere.

Rows lie along circles of latitude, columns along them, about a grid of its own:

    turned       latitude 0 runs through the middle of the framing, at its angle; each panel is turned a little against the next
    equatorial   latitude is declination: only right ascension changes along a row and no panel is turned, as a bracket that
                 moves in two axes needs it

A panel's upper and lower edges are great circles. Beside its middle the upper one sinks (or, below the equator, rises), so two
rows overlap least where columns meet; two columns overlap least at the corners nearer the equator. The spacing is such that the
least overlap is the one asked for.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.framing.frame import Frame, Subject, axes, holds, outline, position_angle_deg, ra_dec_deg
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Quantity, Verdict, Working

MOST_PANELS = 200
MOST_OVERLAP = 0.5
USUAL_OVERLAP = 0.2  # common practice, no source: 15 to 25 %
HIGHEST_DEG = 84.0  # latitude on its grid that a panel's edge may reach
WORTH_A_TURN_DEG = 0.5  # what is less is not told
Grid = Literal["turned", "equatorial"]


@dataclass(frozen=True)
class Panel:
    """One frame of many. row from the top, column from the left, both from nought, as the framing is held."""

    row: int
    column: int
    frame: Frame


@dataclass(frozen=True)
class Panels:
    """Panels in the order in which one axis moves at a time; overlap: the least share of a side that neighbours share."""

    grid: Grid
    panels: tuple[Panel, ...]
    overlap: float


def _reach(frame: Frame, latitude: float) -> float:
    """Longitude, from its middle, of a panel's corner nearer the equator."""
    wide, high = frame.half
    return float(np.arctan(wide / (np.cos(latitude) + high * abs(np.sin(latitude)))))


def _edge(latitude: float, aside: float, lowest: bool) -> float:
    """Lowest or highest latitude, within `aside` of its middle, of a great circle that stands highest at `latitude` there."""
    beside = float(np.arctan(np.tan(latitude) * np.cos(aside)))
    return min(latitude, beside) if lowest else max(latitude, beside)


def _shared(frame: Frame, below: float, above: float, overlap: float) -> float:
    """Share of the height that rows at two latitudes have in common where it is least."""
    high = np.radians(frame.height_deg) / 2.0
    asides = [_reach(frame, one) * (1.0 - overlap) for one in (below, above)]
    top = _edge(below + high, asides[0], lowest=True)
    bottom = _edge(above - high, asides[1], lowest=False)
    return float((top - bottom) / (2.0 * high))


def _next(frame: Frame, below: float, overlap: float) -> float:
    """Latitude of the row above one. Raises ValueError where the grid ends."""
    high = np.radians(frame.height_deg)
    return float(brentq(lambda above: _shared(frame, below, above, overlap) - overlap, below, below + high, xtol=1e-12))


def _rows(frame: Frame, middle: float, rows: int, overlap: float) -> list[float]:
    """Latitudes from the lowest up, even about the middle. Raises InvalidInput where they reach too near the grid's pole."""
    high = np.radians(frame.height_deg)

    def stack(first: float) -> list[float]:
        found = [first]
        for _ in range(rows - 1):
            found.append(_next(frame, found[-1], overlap))
        return found

    span = (rows - 1) * high * (1.0 - overlap) / 2.0
    most = np.radians(HIGHEST_DEG) - high / 2.0
    try:
        if rows > 1:
            low = brentq(lambda first: sum(stack(first)[:: rows - 1]) / 2.0 - middle, middle - span - high / 4, middle, xtol=1e-11)
            found = stack(float(low))
        else:
            found = [middle]
    except ValueError:
        found = [np.pi]
    if max(map(abs, found)) > most:
        told = f"{rows} rows reach too far for one grid; take fewer rows, or a shorter focal length."
        raise InvalidInput([Fault("rows", rows, told)])
    return found


def counted(columns: int, rows: int, overlap: float) -> None:
    """Raise InvalidInput for more panels than are laid, or a share that neighbours cannot have in common."""
    checks = Checks()
    checks.within("columns", columns, 1, MOST_PANELS)
    checks.within("rows", rows, 1, MOST_PANELS)
    if not -1e-9 <= overlap <= MOST_OVERLAP:
        told = f"Neighbours may share from 0 to {MOST_OVERLAP * 100:.0f} % of a side; 15 to 25 % is usual."
        checks.fault("overlap", overlap, told)
    if columns * rows > MOST_PANELS and not checks.faults:
        many = columns * rows
        told = f"{columns} × {rows} are {many} panels, {many / 10:.0f} nights at ten a night; up to {MOST_PANELS} are laid."
        checks.fault("columns", columns, told)
    checks.done()


def lay(frame: Frame, columns: int, rows: int, overlap: float = USUAL_OVERLAP, grid: Grid = "turned") -> Panels:
    """Columns × rows of frames like this one around its middle.

    overlap: the least share of a side that neighbours have in common, 0 to 0.5. The equatorial grid needs an angle of 0 or 90°
    (else, or near a pole, it is turned). Raises InvalidInput.
    """
    counted(columns, rows, overlap)
    quarter = round(frame.angle_deg / 90.0)
    upright = abs(frame.angle_deg - 90.0 * quarter) < 0.01
    reach = abs(frame.dec_deg) + frame.height_deg * rows / 2.0
    if grid == "equatorial" and (not upright or quarter % 2 or reach > HIGHEST_DEG):
        grid = "turned"
    if grid == "equatorial":
        basis, latitude = np.eye(3), np.radians(frame.dec_deg)
        longitude, flip = np.radians(frame.ra_deg), quarter % 4 == 2
    else:
        right, up, towards = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
        # Longitude grows to the left, as right ascension does with north up.
        basis, latitude, longitude, flip = np.stack([towards, -right, up]), 0.0, 0.0, False
    latitudes = _rows(frame, latitude, rows, overlap)
    found = []
    for row, beta in enumerate(reversed(latitudes)):
        step = 2.0 * _reach(frame, beta) * (1.0 - overlap)
        if step * columns > 2.0 * np.pi:
            raise InvalidInput([Fault("columns", columns, f"{columns} columns go round the whole sky; take fewer.")])
        for column in range(columns):
            aside = longitude + ((columns - 1) / 2.0 - column) * step
            centre = np.array([np.cos(beta) * np.cos(aside), np.cos(beta) * np.sin(aside), np.sin(beta)]) @ basis
            up = np.array([-np.sin(beta) * np.cos(aside), -np.sin(beta) * np.sin(aside), np.cos(beta)]) @ basis
            ra, dec = ra_dec_deg(centre)
            angle = position_angle_deg(up, float(ra), float(dec))
            one = replace(frame, ra_deg=float(ra), dec_deg=float(dec), angle_deg=round(angle + (180.0 if flip else 0.0), 9) % 360.0)
            found.append(Panel(row, column, one))
    if flip:
        found = [Panel(rows - 1 - one.row, columns - 1 - one.column, one.frame) for one in found]
    # Along one row and back along the next: one axis moves at a time.
    found.sort(key=lambda one: (one.row, one.column if one.row % 2 == 0 else -one.column))
    between = [_shared(frame, low, high, overlap) for low, high in pairwise(latitudes)]
    least = min([*between, *([overlap] if columns > 1 else [])], default=0.0)
    return Panels(grid, tuple(found), least)


def laid_verdict(laid: Panels, kept: Sequence[Panel], covered_share: float | None, turn_deg: float) -> Verdict:
    """How many panels, what neighbours share, what of all that is wanted they see, and how far the camera turns over them."""
    first = laid.panels[0].frame
    columns, rows = (1 + max(getattr(one, name) for one in laid.panels) for name in ("column", "row"))
    many = len(laid.panels) > 1
    shared = f", neighbours share {laid.overlap * 100:.0f} % or more" if many else ""
    seen = "" if covered_share is None else f"; {covered_share * 100:.0f} % of what is wanted is covered"
    sentence = f"{len(kept)} panel{'' if len(kept) == 1 else 's'}{shared}{seen}."
    turned = f"From first to last the camera turns by {turn_deg:.1f}°." if turn_deg > WORTH_A_TURN_DEG else ""
    frame = Working(
        "frame",
        "One frame",
        "2 atan(sensor side / 2 f)",
        (),
        Quantity("Frame", text=f"{first.width_deg:.2f}° × {first.height_deg:.2f}°"),
        "Definition of the angle of view; sensor and focal length are the rig's, on the Bench",
        "definition",
    )
    share = Working(
        "overlap",
        "What neighbours share",
        "the least share of a side, over all rows and columns, on the sphere",
        (Quantity("Columns", columns, decimals=0), Quantity("Rows", rows, decimals=0), Quantity("Grid", text=laid.grid)),
        Quantity("At least", laid.overlap * 100, "%"),
        "Spherical trigonometry: rows overlap least where columns meet, columns at the corners nearer the grid's equator",
        "definition",
    )
    cover = Working(
        "covered",
        "What is covered",
        "share of each wanted ellipse that any panel sees, by 24 rings of 128 places; mean of all",
        (Quantity("Panels shot", len(kept), decimals=0),),
        Quantity("Covered", 100.0 * (covered_share or 0.0), "%"),
        "Counted on the sphere",
        "definition",
    )
    turn = Working(
        "turn",
        "How far the camera turns",
        "largest less smallest position angle of the panels' upper edges",
        (),
        Quantity("Turn", turn_deg, "°"),
        "Spherical trigonometry; along declination no panel is turned",
        "definition",
    )
    figures = [Quantity("Frame", text=f"{first.width_deg:.2f}° × {first.height_deg:.2f}°", working="frame")]
    workings = [frame]
    if many:
        figures += [
            Quantity("Neighbours share", laid.overlap * 100, "%", decimals=0, working="overlap"),
            Quantity("Camera turns", turn_deg, "°", working="turn"),
        ]
        workings += [share, turn]
    if covered_share is not None:
        figures.append(Quantity("Covered", covered_share * 100, "%", decimals=0, working="covered"))
        workings.append(cover)
    return Verdict("Cut", "go", sentence, "columns, rows and overlap", turned, tuple(figures), workings=tuple(workings))


def covered(panels: Sequence[Panel], vectors: Floats) -> Floats:
    """By how many panels each direction, shape (n, 3), is seen; shape (n,)."""
    return np.asarray(sum(holds(one.frame, vectors).astype(int) for one in panels)) if panels else np.zeros(len(vectors), dtype=int)


def share_covered(panels: Sequence[Panel], subject: Subject) -> float:
    """Share of a subject's area that any panel sees, 0 to 1, to about half a per cent."""
    rings = np.sqrt((np.arange(24) + 0.5) / 24)
    long_deg = max(subject.long_deg, 1e-4)
    short_deg = long_deg if subject.short_deg is None else subject.short_deg
    inside = [outline(replace(subject, long_deg=long_deg * one, short_deg=max(short_deg, 1e-4) * one)) for one in rings]
    return float((covered(panels, np.concatenate(inside)) > 0).mean())


def fewest(frame: Frame, subjects: Sequence[Subject], overlap: float = USUAL_OVERLAP, grid: Grid = "turned") -> Panels:
    """The fewest columns × rows around a frame's middle that see all subjects whole. Raises InvalidInput past 200 panels."""
    edge = np.concatenate([outline(one) for one in subjects])
    sizes = sorted(
        ((columns, rows) for columns in range(1, 41) for rows in range(1, 41) if columns * rows <= MOST_PANELS),
        key=lambda size: (size[0] * size[1], abs(size[0] - size[1])),
    )
    # What a flat sheet would need is a bound from below that holds on the sphere within a row.
    for columns, rows in sizes:
        if not _may_hold(frame, edge, columns, rows, overlap):
            continue
        try:
            laid = lay(frame, columns, rows, overlap, grid)
        except InvalidInput:
            continue
        if (covered(laid.panels, edge) > 0).all():
            return laid
    told = f"This field needs more than {MOST_PANELS} panels of this lens; take a shorter focal length."
    raise InvalidInput([Fault("columns", None, told)])


def _may_hold(frame: Frame, edge: Floats, columns: int, rows: int, overlap: float) -> bool:
    """Whether so many frames could reach from end to end at all, seen from the middle."""
    right, up, towards = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
    longitude = np.degrees(np.arctan2(edge @ right, edge @ towards))
    latitude = np.degrees(np.arcsin(np.clip(edge @ up, -1, 1)))
    need_wide, need_high = np.ptp(longitude) * 0.7, np.ptp(latitude) * 0.9
    lap = 1.0 - overlap
    return bool(
        frame.width_deg * (1 + (columns - 1) * lap) * 1.2 >= need_wide and frame.height_deg * (1 + (rows - 1) * lap) >= need_high
    )
