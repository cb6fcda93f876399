"""Compose it: where the frame lies so that all that is wanted is in it, with the widest margin.

On the plane that touches the sky at the frame's middle, the wanted outlines have a convex hull. Turned by φ the hull is X(φ)
wide and Y(φ) high. Between two angles at which a side of the frame lies along an edge of the hull, both are sines that bulge
upward, so the best angle lies at such an edge, or where two margins are equal: a short list, looked through whole. That plane
moves with the middle found on it, so it is done again until the middle rests.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize
from scipy.spatial import ConvexHull, QhullError
from scipy.spatial.transform import Rotation

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.framing.beside import best_beside
from widedusk.core.framing.frame import (
    Frame,
    Subject,
    axes,
    from_picture,
    holds,
    on_picture,
    outline,
    position_angle_deg,
    ra_dec_deg,
)
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Quantity, Verdict, Working, joined

ROUNDS, FEW_ROUNDS = 40, 6
RESTS_RAD = 1e-8
TOUCHES = 1e-5  # focal lengths: two hundredths of a pixel beside an edge is no farther in than on it
WIDEST_APART = np.cos(np.radians(65.0))  # of anything wanted from the middle of all: beyond it no one frame holds them
MOST_SUBJECTS = 60
BENT_FROM_DEG = 25.0
SETTLE_RAD = 3e-3


@dataclass(frozen=True)
class Composition:
    """margin_deg: the narrowest gap between the wanted and an edge, at the scale of the middle; below nought: cut by so much.

    margin_share: of the shorter side. fits_up_to: a focal length times this is the longest that still holds all.
    cut: names of what does not fit whole. let_in: names of what should be kept out and cannot be.
    """

    frame: Frame
    margin_deg: float
    margin_share: float
    fits_up_to: float
    cut: tuple[str, ...]
    let_in: tuple[str, ...] = ()


def _middle(subjects: Sequence[Subject]) -> Floats:
    """A direction amid all outlines. Raises InvalidInput for what lies on opposite sides of the sky."""
    edge = np.concatenate([outline(one) for one in subjects])
    middle = edge.sum(axis=0)
    length = float(np.linalg.norm(middle))
    middle = middle / length if length > 1e-6 else edge[0]
    nearest = np.array([float((outline(one) @ middle).min()) for one in subjects])
    if nearest.min() < WIDEST_APART:
        names = [one.name for one, ahead in zip(subjects, nearest, strict=True) if ahead < WIDEST_APART]
        told = f"{names[0]} lies too far from the others for any one frame; take it out, or frame it apart."
        raise InvalidInput([Fault("subjects", names[0], told)])
    return np.asarray(middle)


def _centre(one: Subject) -> Floats:
    return np.asarray(unit_vectors(np.radians([one.ra_deg]), np.radians([one.dec_deg])))


def _hull(edge: Floats, middle: Floats) -> Floats:
    """Those of the directions that are corners of the hull of all, in turn; of few or aligned ones, all of them.

    Great circles are straight lines on every such plane, so the corners are the same on all of them.
    """
    ra, dec = ra_dec_deg(middle)
    x, y = on_picture(Frame(float(ra), float(np.clip(dec, -90, 90)), 0.0, 1.0, 1.0), edge)
    points, first = np.unique(np.round(np.stack([x, y], axis=1), 12), axis=0, return_index=True)
    if len(points) < 3:
        return np.asarray(edge[first])
    try:
        return np.asarray(edge[first[ConvexHull(points).vertices]])
    except QhullError:
        return np.asarray(edge[first])


def _spans(hull: Floats, angles: Floats) -> tuple[Floats, Floats, Floats]:
    """Width and height of the hull under frames turned by angles, shape (n,) each, and the middles of both, shape (n, 2)."""
    cos, sin = np.cos(angles), np.sin(angles)
    x = hull @ np.stack([cos, sin])
    y = hull @ np.stack([-sin, cos])
    low, high = np.stack([x.min(axis=0), y.min(axis=0)]), np.stack([x.max(axis=0), y.max(axis=0)])
    middle = (low + high) / 2.0
    return (
        high[0] - low[0],
        high[1] - low[1],
        np.stack([cos * middle[0] - sin * middle[1], sin * middle[0] + cos * middle[1]], axis=1),
    )


def _edges(hull: Floats) -> Floats:
    """Angles, 0 to π, at which a side of the frame lies along an edge of the hull."""
    steps = np.roll(hull, -1, axis=0) - hull
    directions = np.arctan2(steps[:, 1], steps[:, 0]) if len(hull) > 1 else np.zeros(1)
    return np.unique(np.concatenate([directions, directions + np.pi / 2.0]) % np.pi)


def _equal(hull: Floats, angles: Floats, wide: float, high: float, difference: float) -> Floats:
    """Angles between neighbours of a sorted list at which X / wide - Y / high is `difference`; exact, one sine each."""
    begin, end = angles, np.append(angles[1:], angles[0] + np.pi)
    amid = (begin + end) / 2.0
    cos, sin = np.cos(amid), np.sin(amid)
    x, y = hull @ np.stack([cos, sin]), hull @ np.stack([-sin, cos])
    along_x = hull[x.argmax(axis=0)] - hull[x.argmin(axis=0)]
    along_y = hull[y.argmax(axis=0)] - hull[y.argmin(axis=0)]
    # X = ax cos + ay sin and Y = by cos - bx sin: their weighted difference is one sine over the stretch
    a = along_x[:, 0] / wide - along_y[:, 1] / high
    b = along_x[:, 1] / wide + along_y[:, 0] / high
    size = np.hypot(a, b)
    with np.errstate(invalid="ignore", divide="ignore"):
        reach = np.arccos(difference / size)
    middle = np.arctan2(b, a)
    found = np.concatenate([middle + reach, middle - reach])
    twice_begin, twice_end = np.tile(begin, 2), np.tile(end, 2)
    inside = twice_begin + (found - twice_begin) % (2.0 * np.pi)
    return np.asarray(inside[np.isfinite(inside) & (inside <= twice_end)] % np.pi)


def _best(hull: Floats, half: Floats, only: Floats | None, within: tuple[float, float] | None) -> tuple[float, Floats, float]:
    """Position angle of the frame and its middle on the plane (right, up), and how large the smallest like frame is beside it.

    only, within: the position angles that are allowed, radians.
    """
    wide, high = 2.0 * half
    if only is not None:
        angles = only
    else:
        edges = _edges(hull)
        shapes = [edges, _equal(hull, edges, 1.0, 1.0, wide - high), _equal(hull, edges, wide, high, 0.0)]
        if within is not None:
            shapes.append(np.asarray(within))
        angles = np.concatenate(shapes)
        if within is not None:
            low, most = within
            angles = angles[(angles - low) % np.pi <= most - low + 1e-9]
    x, y, middles = _spans(hull, angles)
    margins = np.minimum(wide - x, high - y) / 2.0
    best = int(margins.argmax())
    smallest = float(np.maximum(x / wide, y / high).min())
    return float(angles[best]), middles[best], smallest


def _settled(frame: Frame, hull: Floats, free: bool) -> Frame:
    """A wide frame moved and, where it is free to, turned by the last thousandths: there the plane bends as it moves."""
    across = axes(frame.ra_deg, frame.dec_deg, frame.angle_deg)
    seen = hull @ across.T  # right, up, towards
    half = frame.half

    def moved(shift: Floats) -> Floats:
        """Right, up, towards of a frame moved right and up and turned by small angles, as rows in those of the frame."""
        right, up, turn = (*shift, 0.0)[:3]
        small = Rotation.from_rotvec([-up, right, turn]).as_matrix()
        return np.asarray(small.T)

    def lacking(shift: Floats) -> float:
        x, y, ahead = moved(shift) @ seen.T
        gap = np.minimum(half[0] - np.abs(x / ahead), half[1] - np.abs(y / ahead)).min()
        return float(-gap) if ahead.min() > 0 else 1e3

    start = np.zeros(3 if free else 2)
    simplex = np.concatenate([start[None], np.eye(start.size) * SETTLE_RAD])
    options = {"initial_simplex": simplex, "xatol": 1e-6, "fatol": 1e-7, "maxiter": 200}
    found = minimize(lacking, start, method="Nelder-Mead", options=options)
    if found.fun >= lacking(start):
        return frame
    _, up, towards = moved(found.x) @ across
    ra, dec = ra_dec_deg(towards)
    angle = position_angle_deg(up, float(ra), float(dec)) % 180.0
    return Frame(float(ra), float(np.clip(dec, -90, 90)), angle, frame.width_deg, frame.height_deg)


def compose(
    subjects: Sequence[Subject],
    width_deg: float,
    height_deg: float,
    only_deg: Sequence[float] | None = None,
    within_deg: tuple[float, float] | None = None,
    avoided: Sequence[Subject] = (),
    to_the_last: bool = True,
) -> Composition:
    """The frame of these sides that holds all subjects with the widest margin.

    only_deg: the position angles of the upper edge that this rig can take; none: any. within_deg: from and to, such as -45 and
    45 for a landscape picture. avoided: circles, such as halos of bright stars, that shall lie outside. Raises InvalidInput for
    none or too many subjects, or such as no frame can hold. to_the_last: else a few rounds will do, a hundredth of a frame.
    """
    if not 1 <= len(subjects) <= MOST_SUBJECTS:
        told = f"Choose from 1 to {MOST_SUBJECTS} things that shall be in the picture."
        raise InvalidInput([Fault("subjects", len(subjects), told)])
    edge = np.concatenate([outline(one) for one in subjects])
    middle = _middle(subjects)
    only = None if only_deg is None else np.radians(np.asarray(only_deg, dtype=float))
    within = None if within_deg is None else (float(np.radians(within_deg[0])), float(np.radians(within_deg[1])))
    hull = _hull(edge, middle)
    smallest, angle = 1.0, 0.0
    for _ in range(ROUNDS if to_the_last else FEW_ROUNDS):
        ra, dec = ra_dec_deg(middle)
        plane = Frame(float(ra), float(np.clip(dec, -90, 90)), 0.0, width_deg, height_deg)
        x, y = on_picture(plane, hull)
        # Right and up: angles grow from north to the left, which is east, as position angles do.
        flat = np.stack([x, -y], axis=1)
        angle, at, smallest = _best(flat, plane.half, only, within)
        if avoided:
            beside = _beside(flat, plane, avoided, only, within)
            angle, at = (angle, at) if beside is None else beside
        moved = from_picture(plane, np.asarray(at[0]), np.asarray(-at[1]))
        rests = float(np.linalg.norm(moved - middle)) < RESTS_RAD
        middle = moved
        if rests:
            break
    ra, dec = ra_dec_deg(middle)
    frame = Frame(float(ra), float(np.clip(dec, -90, 90)), float(np.degrees(angle) % 180.0), width_deg, height_deg)
    if max(width_deg, height_deg) > BENT_FROM_DEG and not avoided and to_the_last:
        frame = _settled(frame, hull, only is None and within is None)
    return judged(frame, subjects, 1.0 / smallest if smallest > 0 else np.inf, avoided)


def _beside(
    flat: Floats, plane: Frame, avoided: Sequence[Subject], only: Floats | None, within: tuple[float, float] | None
) -> tuple[float, Floats] | None:
    """Angle and middle of the best frame that holds all and has these outside; None where there is none."""
    middles, edges = np.concatenate([_centre(one) for one in avoided]), np.stack([outline(one) for one in avoided])
    x, y = on_picture(plane, middles)
    ahead = np.isfinite(x)
    if not ahead.any():
        return None
    edge_x, edge_y = on_picture(plane, edges)
    radius = np.hypot(edge_x - x[:, None], edge_y - y[:, None]).max(axis=1)  # a circle aside is drawn out a little
    angle, at, margin = best_beside(flat, plane.half, np.stack([x, -y], axis=1)[ahead], radius[ahead], only, within)
    return (angle % np.pi, at) if margin >= 0 else None  # what is wanted comes first


def judged(frame: Frame, subjects: Sequence[Subject], fits_up_to: float = np.nan, avoided: Sequence[Subject] = ()) -> Composition:
    """What a frame as it lies makes of the subjects."""
    gaps = []
    for one in subjects:
        x, y = on_picture(frame, outline(one))
        reach = np.stack([np.abs(x), np.abs(y)])
        gaps.append(float(np.where(np.isfinite(reach), frame.half[:, None] - reach, -np.inf).min()))
    least = min(gaps)
    return Composition(
        frame,
        float(np.degrees(least)) if np.isfinite(least) else -180.0,
        least / (2.0 * float(frame.half.min())) if np.isfinite(least) else -1.0,
        float(fits_up_to),
        tuple(one.name for one, gap in zip(subjects, gaps, strict=True) if gap < -1e-9),
        tuple(one.name for one in avoided if holds(frame, np.concatenate([outline(one), _centre(one)]), -TOUCHES).any()),
    )


def composed_verdict(
    found: Composition, focal_mm: float, longest_mm: float | None, count: int, also: Sequence[str] = ()
) -> Verdict:
    """Whether all that is wanted is in the picture. longest_mm: the longest focal length that holds all; none: any.

    also: further advice, as sentences.
    """
    what = "It fits" if count == 1 else f"All {count} fit"
    many = len(found.cut) > 1
    if not found.cut:
        sentence = f"{what} with {found.margin_deg:.2f}° to spare, {found.margin_share * 100:.0f} % of the short side."
    else:
        sentence = f"{joined(found.cut)} {'are' if many else 'is'} cut, by {-found.margin_deg:.2f}° at the worst."
    advice = [f"Up to {longest_mm:.0f} mm would hold {'it' if count == 1 else 'them'}."] if longest_mm else []
    advice += also
    if found.let_in:
        advice.append(f"{joined(found.let_in)} cannot be kept out without cutting what you want.")
    margin = Working(
        "margin",
        "The widest margin",
        "max over middle and angle of the least gap between outlines and edges, on the plane that touches the sky at the middle",
        (
            Quantity("Frame", text=f"{found.frame.width_deg:.2f}° × {found.frame.height_deg:.2f}°"),
            Quantity("Things wanted", count, decimals=0),
            Quantity("Upper edge, north through east", found.frame.angle_deg, "°"),
        ),
        Quantity("Margin", found.margin_deg, "°", decimals=3),
        "Exact: the best angle lies along an edge of the convex hull of all outlines, or where both margins are equal",
        "definition",
    )
    reach = Working(
        "reach",
        "The longest focal length",
        "f · least over angles of min(W/X, H/Y)",
        (
            Quantity("Focal length", focal_mm, "mm", "f", 0),
            Quantity("Frame over hull", found.fits_up_to, decimals=3)
            if np.isfinite(found.fits_up_to)
            else Quantity("Frame over hull", text="a single point: any"),
        ),
        Quantity("Up to", longest_mm, "mm", decimals=0) if longest_mm else Quantity("Up to", text="any"),
        "X, Y: the hull’s width and height as the frame lies",
        "definition",
    )
    return Verdict(
        "Composition",
        "stop" if found.cut else "care" if found.let_in or found.margin_share < 0.02 else "go",
        sentence,
        "the tightest side",
        " ".join(advice),
        (
            Quantity("Margin", found.margin_deg, "°", decimals=2, working="margin"),
            Quantity("of the short side", found.margin_share * 100, "%", decimals=0, working="margin"),
            *((Quantity("Up to", longest_mm, "mm", decimals=0, working="reach"),) if longest_mm else ()),
        ),
        workings=(margin, reach),
    )
