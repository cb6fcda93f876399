"""Keep a bright star and its halo out of a frame that holds all that is wanted.

At one angle the margins along the width and along the height are two roofs over the frame's middle, and a halo forbids a rectangle
of middles. Moving towards the ridge of either roof only gains, until such a rectangle is met; so the best middle has each of its
coordinates on the ridge or at the side of a rectangle: a short list. Over the angles the best margin is looked for in quarter
degrees and then narrowed down.
"""

import numpy as np

from widedusk.core.sky.time import Floats

STEP = np.radians(0.25)
NARROWINGS, FINER = 4, 12


def _at(hull: Floats, half: Floats, stars: Floats, radius: Floats, angles: Floats) -> tuple[Floats, Floats, Floats]:
    """The widest margin at each angle, shape (n,), -inf where none keeps all stars out, and the middle x, y in the turned plane.

    hull: (m, 2) of what is wanted, right and up; stars (k, 2), radius (k,) of their halos; half: of the frame's sides.
    """
    cos, sin = np.cos(angles), np.sin(angles)
    x = hull @ np.stack([cos, sin])
    y = hull @ np.stack([-sin, cos])
    star_x, star_y = stars @ np.stack([cos, sin]), stars @ np.stack([-sin, cos])  # (k, n)
    ridge_x, ridge_y = (x.min(axis=0) + x.max(axis=0)) / 2.0, (y.min(axis=0) + y.max(axis=0)) / 2.0
    clear = radius[:, None]
    at_x = np.concatenate([ridge_x[None], star_x + half[0] + clear, star_x - half[0] - clear])
    at_y = np.concatenate([ridge_y[None], star_y + half[1] + clear, star_y - half[1] - clear])
    margin_x = half[0] - np.ptp(x, axis=0) / 2.0 - np.abs(at_x - ridge_x)
    margin_y = half[1] - np.ptp(y, axis=0) / 2.0 - np.abs(at_y - ridge_y)
    margin = np.minimum(margin_x[:, None], margin_y[None])
    slack = 1e-12
    inside = np.ones(margin.shape, dtype=bool)
    free = inside
    for number in range(len(stars)):
        beyond_x = np.abs(at_x - star_x[number]) >= half[0] + radius[number] - slack
        beyond_y = np.abs(at_y - star_y[number]) >= half[1] + radius[number] - slack
        free = free & (beyond_x[:, None] | beyond_y[None])
    margin = np.where(free, margin, -np.inf).reshape(-1, angles.size)
    best = margin.argmax(axis=0)
    turn = np.arange(angles.size)
    return margin[best, turn], at_x[best // len(at_y), turn], at_y[best % len(at_y), turn]


def best_beside(
    hull: Floats, half: Floats, stars: Floats, radius: Floats, angles: Floats | None, within: tuple[float, float] | None
) -> tuple[float, Floats, float]:
    """Position angle, the middle on the plane (right, up) and the margin; the margin is -inf where no frame keeps all stars out.

    angles: the only ones this rig can take; None: all within a range, or all.
    """
    fixed = angles is not None
    low, high = within if within is not None else (0.0, np.pi)
    tried = angles if angles is not None else np.arange(low, high + STEP / 2.0, STEP)
    step = STEP
    for _ in range(1 if fixed else NARROWINGS):
        margin, x, y = _at(hull, half, stars, radius, tried)
        best = int(margin.argmax())
        angle, found, at = float(tried[best]), float(margin[best]), (float(x[best]), float(y[best]))
        if fixed or not np.isfinite(found):
            break
        tried = np.clip(angle + np.linspace(-step, step, 2 * FINER + 1), low, high)
        step /= FINER
    cos, sin = np.cos(angle), np.sin(angle)
    return angle, np.array([cos * at[0] - sin * at[1], sin * at[0] + cos * at[1]]), found
