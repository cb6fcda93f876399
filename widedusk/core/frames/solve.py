"""Which stars a picture shows: four-star patterns for a first guess, then every star of the list that falls on a source.

The first guess is found by tetra3rs (Pettersson 2023, after Brown's Tetra) among patterns that are worked out once, at set-up. It
takes the lens for a pinhole, so a few bent lenses are tried in turn: the pattern's ratios bear one part in a thousand.
"""

from collections.abc import Iterator

import numpy as np
import tetra3rs
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from widedusk.core.catalogue.stars import StarList, stars, v_magnitude
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.stars import Found
from widedusk.core.sky.time import Floats

# What a corner may be stretched by, the likeliest first; a wide lens can bend by a few percent.
BENDS = (0.0, -0.002, 0.002, -0.004, 0.004, -0.01, 0.01, -0.02, 0.02, -0.035)
GUESS_STARS = 90
GUESS_MS = 1200
# Fields for a lens that nobody names, the likeliest first; each reaches to its neighbours.
UNKNOWN_FIELDS_DEG = (50.0, 40.0, 62.0, 32.0, 25.5, 20.5, 16.0, 13.0, 10.3, 8.2, 75.0, 6.5, 5.2, 4.1, 3.3)
FOCAL_TOLERANCE = 0.12  # what is written in a file may be this far off
LEAST_MATCHED = 8
MOST_LISTED = 1200


def focal_px_of(field_deg: float, width_px: int) -> float:
    return float(width_px / 2.0 / np.tan(np.radians(field_deg) / 2.0))


def _field_deg(focal_px: float, width_px: int) -> float:
    return float(np.degrees(2.0 * np.arctan(width_px / 2.0 / focal_px)))


def _straight(x: Floats, y: Floats, bend: float, corner_px: float) -> tuple[Floats, Floats]:
    """Undo a corner's stretch, by repetition."""
    radius = np.hypot(x, y)
    plain = radius
    for _ in range(4):
        plain = radius / (1.0 + bend * (plain / corner_px) ** 2)
    share = np.divide(plain, radius, out=np.ones_like(radius), where=radius > 0)
    return x * share, y * share


def _guesses(found: Found, focal_px: float | None) -> Iterator[tuple[float, float, float]]:
    """Bend, field and its tolerance in the order in which they are tried."""
    if focal_px is not None:
        field = _field_deg(focal_px, found.width_px)
        yield from ((bend, field, field * FOCAL_TOLERANCE) for bend in BENDS)
    else:
        yield from ((bend, field, field * FOCAL_TOLERANCE) for bend in BENDS[:2] for field in UNKNOWN_FIELDS_DEG)


def identify(book: tetra3rs.SolverDatabase, found: Found, focal_px: float | None) -> Matched | None:
    """Name the stars of a picture, or None. focal_px is what the file says, within 12 %; None: every field is tried."""
    corner_px = float(np.hypot(found.width_px, found.height_px) / 2.0)
    chosen = slice(0, GUESS_STARS)
    for bend, field, tolerance in _guesses(found, focal_px):
        x, y = _straight(found.x[chosen], found.y[chosen], bend, corner_px)
        guess = book.solve_from_centroids(
            np.column_stack([x, y, found.light[chosen]]),
            fov_estimate_deg=field,
            fov_max_error_deg=tolerance,
            image_shape=(found.height_px, found.width_px),
            solve_timeout_ms=GUESS_MS,
        )
        if isinstance(guess, tetra3rs.SolveResult):
            toward = np.asarray(guess.rotation_matrix_icrs_to_camera, dtype=float)
            matched = match(found, toward, focal_px_of(guess.fov_deg, found.width_px), bend, bool(guess.parity_flip))
            if matched is not None:
                return matched
    return None


SHIFT_STARS, MOST_SHIFT, SHIFT_BIN_PX, LEAST_VOTES = 150, 0.25, 3.0, 7


def shifted(found: Found, toward: Floats, focal_px: float, bend: float, mirrored: bool) -> Floats:
    """The attitude of another picture of the same field, carried to where this one looks: by the shift that most pairs of a
    listed star and a source have in common. Up to a quarter of the width; unchanged where no shift has enough of them."""
    corner_px = float(np.hypot(found.width_px, found.height_px) / 2.0)
    radius = float(np.arctan(corner_px / focal_px)) * 1.05
    listed = stars().within(toward[2], radius, SHIFT_STARS)
    right, down, forward = toward @ listed.vectors.T
    px, py = focal_px * right / forward, focal_px * down / forward
    stretch = 1.0 + bend * (np.hypot(px, py) / corner_px) ** 2
    chosen = slice(0, SHIFT_STARS)
    x = (-found.x if mirrored else found.x)[chosen]
    off_x, off_y = (x[:, None] - (px * stretch)[None, :]).ravel(), (found.y[chosen][:, None] - (py * stretch)[None, :]).ravel()
    reach = MOST_SHIFT * found.width_px
    near = np.hypot(off_x, off_y) < reach
    off_x, off_y = off_x[near], off_y[near]
    if off_x.size == 0:
        return toward
    tree = cKDTree(np.column_stack([off_x, off_y]))
    votes = np.asarray(tree.query_ball_point(tree.data, SHIFT_BIN_PX, return_length=True))
    best = int(np.argmax(votes))
    if votes[best] < max(LEAST_VOTES, 4.0 * float(np.median(votes))):
        return toward
    of_it = tree.query_ball_point(tree.data[best], SHIFT_BIN_PX)
    dx, dy = float(np.mean(off_x[of_it])) / focal_px, float(np.mean(off_y[of_it])) / focal_px
    return np.asarray(Rotation.from_rotvec([-dy, dx, 0.0]).as_matrix() @ toward)


def match(found: Found, toward: Floats, focal_px: float, bend: float, mirrored: bool) -> Matched | None:
    """Every listed star that falls on a source, in three rounds with the lens fitted in between; None below eight stars."""
    corner_px = float(np.hypot(found.width_px, found.height_px) / 2.0)
    radius = float(np.arctan(corner_px / focal_px)) * 1.05
    listed: StarList = stars().within(toward[2], radius, max(3 * found.count, MOST_LISTED))
    x = -found.x if mirrored else found.x
    tree = cKDTree(np.column_stack([x, found.y]))
    reach = 0.006 * corner_px
    for _ in range(4):
        right, down, forward = toward @ listed.vectors.T
        with np.errstate(divide="ignore", invalid="ignore"):
            px, py = (np.where(forward > 0.1, focal_px * one / forward, np.inf) for one in (right, down))
        stretch = 1.0 + bend * (np.hypot(px, py) / corner_px) ** 2
        px, py = px * stretch, py * stretch
        inside = np.flatnonzero((np.abs(px) < found.width_px / 2) & (np.abs(py) < found.height_px / 2))[: 2 * found.count]
        gap, source = tree.query(np.column_stack([px[inside], py[inside]]))
        order = np.argsort(gap)
        _, first = np.unique(source[order], return_index=True)
        pairs = order[first]
        pairs = pairs[gap[pairs] < reach]
        if pairs.size < LEAST_MATCHED:
            return None
        known, at = inside[pairs], source[pairs]
        star = listed.vectors[known]
        toward, focal_px, bend, residual = _refit(star, x[at], found.y[at], toward, focal_px, bend, corner_px)
        reach = float(np.clip(4.0 * np.median(residual), 1.5, reach))
    colour = listed.colour[known]
    v = v_magnitude(listed.magnitude[known], colour)
    return Matched(x[at], found.y[at], star, v, colour, toward, focal_px, bend, mirrored)


def _refit(
    star: Floats, x: Floats, y: Floats, toward: Floats, focal_px: float, bend: float, corner_px: float
) -> tuple[Floats, float, float, Floats]:
    """Attitude by Wahba's problem, focal length and bend by least squares along the radius."""
    plain_x, plain_y = _straight(x, y, bend, corner_px)
    seen = np.column_stack([plain_x, plain_y, np.full_like(x, focal_px)])
    seen /= np.linalg.norm(seen, axis=1)[:, None]
    toward = Rotation.align_vectors(seen, star)[0].as_matrix()
    camera = toward @ star.T
    ideal = np.hypot(camera[0], camera[1]) / camera[2]  # tan of the angle off the middle
    radius = np.hypot(x, y)
    # radius = f * ideal * (1 + bend (f ideal / corner)²), linear in f and in f * bend
    cubic = ideal * (focal_px * ideal / corner_px) ** 2
    weight = np.ones_like(radius)
    for _ in range(3):
        design = np.column_stack([ideal, cubic]) * weight[:, None]
        (fitted, bent), *_ = np.linalg.lstsq(design, radius * weight, rcond=None)
        off = radius - fitted * ideal - bent * cubic
        weight = 1.0 / np.sqrt(1.0 + (off / max(1.5 * float(np.median(np.abs(off))), 0.05)) ** 2)
    return toward, float(fitted), float(bent / fitted), np.abs(off)
