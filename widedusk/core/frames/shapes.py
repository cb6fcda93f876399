"""How wide and how long the stars of a picture are, from their moments.

Moments are weighted with an elliptical Gaussian of the star's own size, in a few rounds; for a Gaussian star the weighted
covariance is half its own. Source: adaptive moments, Bernstein & Jarvis 2002, AJ 123, 583.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

MOST_STARS = 250
ROUNDS = 12
LEAST_STARS = 5


@dataclass(frozen=True)
class Shape:
    """Of the typical star, pixels of the plane: widths along and across its long axis (FWHM) and the direction of that axis,
    degrees from x towards y."""

    long_px: float
    short_px: float
    angle_deg: float
    stars: int

    @property
    def ratio(self) -> float:
        return self.long_px / self.short_px


def _stamps(plane: NDArray[np.float32], x: Floats, y: Floats, half: int) -> tuple[Floats, Floats, Floats]:
    """Cut-outs around stars with the coordinates of their pixels from each star's middle; shape (stars, rows, columns)."""
    height, width = plane.shape
    column, row = x + (width - 1) / 2.0, y + (height - 1) / 2.0
    first_column, first_row = np.rint(column).astype(int), np.rint(row).astype(int)
    offset = np.arange(-half, half + 1)
    rows, columns = first_row[:, None, None] + offset[None, :, None], first_column[:, None, None] + offset[None, None, :]
    shape = (x.size, offset.size, offset.size)
    cut = plane[np.broadcast_to(rows, shape), np.broadcast_to(columns, shape)].astype(float)
    return cut, np.broadcast_to(columns - column[:, None, None], shape), np.broadcast_to(rows - row[:, None, None], shape)


def typical_shape(plane: NDArray[np.float32], x: Floats, y: Floats, fwhm_px: float, clip: float) -> Shape | None:
    """Median shape of the stars at x, y (pixels from the middle, background taken off); None below five usable ones.

    Stars whose brightest pixel comes near the clip level, or whose neighbour lies within reach, are passed over.
    """
    half = int(np.ceil(3.5 * max(fwhm_px, 2.0))) + 2
    height, width = plane.shape
    inside = (np.abs(x) < width / 2 - half - 2) & (np.abs(y) < height / 2 - half - 2)
    apart = np.hypot(x[:, None] - x[None, :], y[:, None] - y[None, :]) + np.where(np.eye(x.size, dtype=bool), 1e9, 0.0)
    chosen = np.flatnonzero(inside & (apart.min(axis=1, initial=1e9) > 2 * half))
    middle = plane[np.rint(y[chosen] + (height - 1) / 2).astype(int), np.rint(x[chosen] + (width - 1) / 2).astype(int)]
    chosen = chosen[middle < 0.7 * clip][:MOST_STARS]  # the brightest that do not clip
    if chosen.size < LEAST_STARS:
        return None
    cut, dx, dy = _stamps(plane, x[chosen], y[chosen], half)
    sound = cut.max(axis=(1, 2)) < 0.7 * clip
    cut, dx, dy = cut[sound], dx[sound], dy[sound]
    if len(cut) < LEAST_STARS:
        return None
    variance = np.full(len(cut), (max(fwhm_px, 1.5) / FWHM_PER_SIGMA) ** 2)
    xx, yy, xy = variance.copy(), variance.copy(), np.zeros(len(cut))
    mx, my = np.zeros(len(cut)), np.zeros(len(cut))
    for _ in range(ROUNDS):
        det = np.maximum(xx * yy - xy**2, 1e-6)
        ux, uy = dx - mx[:, None, None], dy - my[:, None, None]
        quadratic = (yy[:, None, None] * ux**2 + xx[:, None, None] * uy**2 - 2 * xy[:, None, None] * ux * uy) / det[:, None, None]
        weighted = np.exp(-0.5 * quadratic) * cut
        total = np.maximum(weighted.sum(axis=(1, 2)), 1e-9)
        mx, my = mx + (weighted * ux).sum(axis=(1, 2)) / total, my + (weighted * uy).sum(axis=(1, 2)) / total
        # A Gaussian times itself has half its covariance.
        xx = np.clip(2.0 * (weighted * ux**2).sum(axis=(1, 2)) / total, 0.05, half**2)
        yy = np.clip(2.0 * (weighted * uy**2).sum(axis=(1, 2)) / total, 0.05, half**2)
        xy = 2.0 * (weighted * ux * uy).sum(axis=(1, 2)) / total
        xy = np.clip(xy, -0.98 * np.sqrt(xx * yy), 0.98 * np.sqrt(xx * yy))
    middle_xx, middle_yy, middle_xy = float(np.median(xx)), float(np.median(yy)), float(np.median(xy))
    mean, spread = (middle_xx + middle_yy) / 2.0, float(np.hypot((middle_xx - middle_yy) / 2.0, middle_xy))
    return Shape(
        float(FWHM_PER_SIGMA * np.sqrt(mean + spread)),
        float(FWHM_PER_SIGMA * np.sqrt(max(mean - spread, 0.05))),
        float(np.degrees(0.5 * np.arctan2(2.0 * middle_xy, middle_xx - middle_yy)) % 180.0),
        len(cut),
    )
