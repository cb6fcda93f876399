"""How wide and how long the stars of a picture are, from their moments.

Moments are weighted with an elliptical Gaussian of the star's own size, in a few rounds; for a Gaussian star the weighted
covariance is half its own. Source: adaptive moments, Bernstein & Jarvis 2002, AJ 123, 583.

Below two pixels of width the moments of one star hang on where in its pixel it stands. There one Gaussian, integrated over the
pixels, is fitted to all stars together, each with a place and a light of its own.
"""

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

MOST_STARS = 250
ROUNDS = 12
LEAST_STARS = 5
SETTLED, SETTLED_SHARE = 0.003, 0.9  # relative change of its size in a round, at which that share of the stars is done
MOST_PACE = 8.0  # of a star of which next to nothing is known
PLACE_ROUNDS, SHAPE_TOLD_BY = 8, 12.0  # pixels of a star that tell its shape as well as all the others do. Our own
SAMPLED_FROM_PX = 2.2  # width from which moments tell a star's shape wherever it stands in its pixel
FIT_STARS, FIT_HALF, FIT_WIDTHS, FIT_PARTS, FIT_ROUNDS = 60, 4, 1.8, 7, 25
FIT_ODD = 1.5  # what is left over of a star against the typical one, from which it counts less. Our own
FIT_FROM = 0.15  # px²: from narrower, steps run into single pixels and stay there
MOST_EXPONENT = 300.0  # beyond it a star's light is nothing
LEAST_VARIANCE = 0.02  # px²: of a star a third of a pixel wide


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

    def in_file(self, binning: int) -> "Shape":
        """In pixels of the file, of which `binning` each way went into one of the plane: the wider pixel's own width taken off."""
        own = (binning**2 - 1) / 12.0 * FWHM_PER_SIGMA**2
        long, short = (float(np.sqrt(max((one * binning) ** 2 - own, 0.1))) for one in (self.long_px, self.short_px))
        return replace(self, long_px=long, short_px=short)


def _stamps(
    plane: NDArray[np.float32], x: Floats, y: Floats, half: int, own: NDArray[np.bool_] | None
) -> tuple[Floats, Floats, Floats, NDArray[np.bool_]]:
    """Cut-outs around stars, nothing where a pixel is not to be measured, with the coordinates of their pixels from each star's
    middle and which of them are known; shape (stars, rows, columns)."""
    height, width = plane.shape
    column, row = x + (width - 1) / 2.0, y + (height - 1) / 2.0
    first_column, first_row = np.rint(column).astype(int), np.rint(row).astype(int)
    offset = np.arange(-half, half + 1)
    rows, columns = first_row[:, None, None] + offset[None, :, None], first_column[:, None, None] + offset[None, None, :]
    shape = (x.size, offset.size, offset.size)
    cut = plane[np.broadcast_to(rows, shape), np.broadcast_to(columns, shape)].astype(float)
    known = np.broadcast_to(np.True_, shape)
    if own is not None:
        known = own[rows % own.shape[0], columns % own.shape[1]]
        cut[~known] = 0.0
    return cut, np.broadcast_to(columns - column[:, None, None], shape), np.broadcast_to(rows - row[:, None, None], shape), known


@dataclass(frozen=True)
class Moments:
    """Of single stars, each array (stars,): which of those given, and variances and covariance with the pixel's own width, px²."""

    which: NDArray[np.intp]
    xx: Floats
    yy: Floats
    xy: Floats
    cut: Floats  # (stars, rows, columns)
    dx: Floats
    dy: Floats
    known: NDArray[np.bool_]  # of those pixels
    off_x: Floats  # of its middle from the place given
    off_y: Floats

    @property
    def apart(self) -> float:
        """Pixels from one that is known to the next, on the mean."""
        return float(1.0 / np.sqrt(np.mean(self.known)))

    def some(self, chosen: NDArray[np.bool_]) -> "Moments":
        return Moments(*(getattr(self, one.name)[chosen] for one in fields(self)))


def star_moments(
    plane: NDArray[np.float32],
    x: Floats,
    y: Floats,
    fwhm_px: float,
    clip: float,
    most: int = MOST_STARS,
    rounds: int = ROUNDS,
    own: NDArray[np.bool_] | None = None,
) -> Moments | None:
    """Shapes of the stars at x, y (pixels from the middle, background taken off, brightest first); None below five usable ones.

    Stars whose brightest pixel comes near the clip level, or whose neighbour lies within reach, are passed over. own: of a tile
    that the plane repeats, the pixels to be measured; in each round the others hold what the star of that round has there.
    """
    half = int(np.ceil(3.5 * max(fwhm_px, 2.0))) + 2
    height, width = plane.shape
    inside = (np.abs(x) < width / 2 - half - 2) & (np.abs(y) < height / 2 - half - 2)
    chosen = np.flatnonzero(inside & (_gap_to_next(x, y) > 2 * half))
    middle = plane[np.rint(y[chosen] + (height - 1) / 2).astype(int), np.rint(x[chosen] + (width - 1) / 2).astype(int)]
    chosen = chosen[middle < 0.7 * clip][:most]  # the brightest that do not clip
    if chosen.size < LEAST_STARS:
        return None
    cut, dx, dy, known = _stamps(plane, x[chosen], y[chosen], half, own)
    sound = cut.max(axis=(1, 2)) < 0.7 * clip
    chosen, cut, dx, dy, known = chosen[sound], cut[sound], dx[sound], dy[sound], known[sound]
    if len(cut) < LEAST_STARS:
        return None
    variance = np.full(len(cut), (max(fwhm_px, 1.5) / FWHM_PER_SIGMA) ** 2)
    xx, yy, xy = variance.copy(), variance.copy(), np.zeros(len(cut))
    mx, my = np.zeros(len(cut)), np.zeros(len(cut))
    light, from_x, from_y = (one.astype(np.float32) for one in (cut, dx[:, 0, :], dy[:, :, 0]))  # half as many bytes, as good
    pace = np.ones(len(cut))  # what is put in stays where it was: a star half unknown moves half as far
    for _ in range(rounds):
        det = np.maximum(xx * yy - xy**2, 1e-6)
        ux, uy = (from_x - mx.astype(np.float32)[:, None])[:, None, :], (from_y - my.astype(np.float32)[:, None])[:, :, None]
        a, b, c = ((0.5 * one / det).astype(np.float32)[:, None, None] for one in (yy, xx, 2 * xy))
        weight = np.exp(c * ux * uy - a * ux**2 - b * uy**2)
        if own is None:
            weighted = weight * light
        else:
            own_light = (weight**2 * known).sum(axis=(1, 2))
            much = (weight * light).sum(axis=(1, 2)) / np.maximum(own_light, 1e-9)
            weighted = weight * np.where(known, light, much[:, None, None] * weight)
            pace = np.clip((weight**2).sum(axis=(1, 2)) / np.maximum(own_light, 1e-9), 1.0, MOST_PACE)
        by_x, by_y = weighted.sum(axis=1), weighted.sum(axis=2)
        ux, uy = ux[:, 0, :], uy[:, :, 0]
        total = np.maximum(by_x.sum(axis=1, dtype=float), 1e-9)
        mx, my = mx + pace * (by_x * ux).sum(axis=1) / total, my + pace * (by_y * uy).sum(axis=1) / total
        before = xx + yy
        # A Gaussian times itself has half its covariance.
        xx = np.clip(2.0 * (by_x * ux**2).sum(axis=1) / total, 0.05, half**2)
        yy = np.clip(2.0 * (by_y * uy**2).sum(axis=1) / total, 0.05, half**2)
        xy = 2.0 * (uy[:, None, :] @ weighted @ ux[:, :, None])[:, 0, 0] / total
        xy = np.clip(xy, -0.98 * np.sqrt(xx * yy), 0.98 * np.sqrt(xx * yy))
        if np.quantile(np.abs(xx + yy - before) / before, SETTLED_SHARE) < SETTLED:
            break
    if own is not None:
        mx, my = _placed(np.stack([xx, yy, xy]), np.stack([mx, my]), cut, dx, dy, known)
    return Moments(chosen, xx, yy, xy, cut, dx, dy, known, mx, my)


def _placed(shapes: Floats, places: Floats, cut: Floats, dx: Floats, dy: Floats, known: NDArray[np.bool_]) -> Floats:
    """Where stars lie of which only some pixels are known, (2, stars), by least squares of a Gaussian; shapes (xx, yy, xy) of each.

    Few pixels tell a star's shape badly, and a bad shape its place: the fewer, the more it is taken as that of the typical star.
    """
    for _ in range(PLACE_ROUNDS):
        ux, uy = dx - places[0][:, None, None], dy - places[1][:, None, None]
        many = np.sum(known & (ux**2 + uy**2 < (4.0 * shapes[:2].mean(axis=0))[:, None, None]), axis=(1, 2))
        share = many / (many + SHAPE_TOLD_BY)
        xx, yy, xy = (share * shapes + (1 - share) * np.median(shapes, axis=1, keepdims=True))[:, :, None, None]
        det = np.maximum(xx * yy - xy**2, 1e-6)
        light = np.exp(-0.5 * (yy * ux**2 + xx * uy**2 - 2 * xy * ux * uy) / det) * known
        slopes = [light, light * (yy * ux - xy * uy) / det, light * (xx * uy - xy * ux) / det]
        design = np.stack(slopes, axis=-1).reshape(len(cut), -1, 3)
        turned = np.swapaxes(design, 1, 2)
        normal = turned @ design + 1e-9 * np.eye(3)
        much, to_x, to_y = np.linalg.solve(normal, turned @ cut.reshape(len(cut), -1, 1))[:, :, 0].T
        places = places + np.clip(np.stack([to_x, to_y]) / np.maximum(much, 1e-9), -0.5, 0.5)
    return places


def _gap_to_next(x: Floats, y: Floats) -> Floats:
    """Distance of each star to its nearest neighbour, px."""
    if x.size < 2:
        return np.full(x.size, np.inf)
    places = np.column_stack([x, y])
    return np.asarray(cKDTree(places).query(places, k=2)[0][:, 1])


def typical_shape(plane: NDArray[np.float32], x: Floats, y: Floats, fwhm_px: float, clip: float) -> Shape | None:
    """Median shape of the stars at x, y (pixels from the middle, background taken off); None below five usable ones."""
    found = star_moments(plane, x, y, fwhm_px, clip)
    return None if found is None else shape_of(found)


def shape_of(found: Moments, pixel: float = 1.0, most: int = FIT_STARS) -> Shape:
    """The typical star of many: the median of their moments, or of narrow stars the one Gaussian that fits them all.

    pixel: side of a pixel against the step from one to the next; half where a mosaic holds a colour in every second. most: stars
    that the Gaussian is fitted to.
    """
    middle_xx, middle_yy, middle_xy = (float(np.median(one)) for one in (found.xx, found.yy, found.xy))
    if FWHM_PER_SIGMA**2 * min(middle_xx, middle_yy) < (SAMPLED_FROM_PX * found.apart) ** 2:
        middle_xx, middle_yy, middle_xy = _fitted(found, (middle_xx, middle_yy, middle_xy), pixel, most)
    mean, spread = (middle_xx + middle_yy) / 2.0, float(np.hypot((middle_xx - middle_yy) / 2.0, middle_xy))
    return Shape(
        float(FWHM_PER_SIGMA * np.sqrt(mean + spread)),
        float(FWHM_PER_SIGMA * np.sqrt(max(mean - spread, 0.05))),
        float(np.degrees(0.5 * np.arctan2(2.0 * middle_xy, middle_xx - middle_yy)) % 180.0),
        found.which.size,
    )


def _drawn(places: Floats, shape: Floats, dx: Floats, dy: Floats, pixel: float, known: NDArray[np.bool_]) -> Floats:
    """Light of unit stars in the pixels that are known; places (stars, 2), shape (xx, yy, xy), coordinates as those of the
    cut-outs.

    The mean of a pixel's parts. A Gaussian at u + s is that at u, times exp(-(M u) s), times that at s, with M its inverse
    covariance; the second is a product of what hangs on either coordinate of s, and the third is the same for every pixel.
    """
    parts = ((np.arange(FIT_PARTS) + 0.5) / FIT_PARTS - 0.5) * pixel
    xx, yy, xy = shape
    det = max(xx * yy - xy * xy, 1e-4)
    star = np.nonzero(known)[0]
    ux, uy = dx[known] - places[star, 0], dy[known] - places[star, 1]
    across, down = (yy * ux - xy * uy) / det, (xx * uy - xy * ux) / det
    middle = np.exp(-0.5 * (across * ux + down * uy))
    by_x, by_y = (np.exp(np.clip(-one[:, None] * parts, -MOST_EXPONENT, MOST_EXPONENT)) for one in (across, down))
    own = np.exp(-0.5 * (yy * parts[:, None] ** 2 + xx * parts**2 - 2.0 * xy * parts[:, None] * parts) / det)
    light = np.zeros(dx.shape)
    light[known] = middle * np.sum((by_x @ own) * by_y, axis=1) / (2.0 * np.pi * np.sqrt(det) * FIT_PARTS**2)
    return light


def _fitted(found: Moments, start: tuple[float, float, float], pixel: float, most: int) -> tuple[float, float, float]:
    """Variances and covariance, px², pixel's own width included, of the Gaussian that all stars share; Gauss and Newton's steps.

    Light and place are each star's own, and every star counts alike, however bright: less only where it leaves far more over than
    the others do, for then it is two.
    """
    width = FWHM_PER_SIGMA * np.sqrt(min(max(start[:2]), (SAMPLED_FROM_PX * found.apart / FWHM_PER_SIGMA) ** 2))
    half, reach = found.cut.shape[1] // 2, max(FIT_HALF, int(np.ceil(FIT_WIDTHS * width)))
    near = slice(max(half - reach, 0), half + reach + 1)
    cut, dx, dy = (one[:most, near, near] for one in (found.cut, found.dx, found.dy))
    known = found.known[:most, near, near]
    cut = cut / np.maximum(np.abs(cut).sum(axis=(1, 2), keepdims=True), 1e-9)
    own_width = np.array([pixel**2 / 12.0, pixel**2 / 12.0, 0.0])
    shape = np.array([*np.maximum(np.array(start[:2]) - own_width[:2], FIT_FROM), np.clip(start[2], -0.9, 0.9) * 0.5])
    places = np.zeros((len(cut), 2))
    step, damping = 1e-3, 1e-3
    for _ in range(FIT_ROUNDS):
        base = _drawn(places, shape, dx, dy, pixel, known)
        light = np.sum(base * cut, axis=(1, 2)) / np.maximum(np.sum(base * base, axis=(1, 2)), 1e-12)
        left = cut - light[:, None, None] * base
        slopes = []
        for axis in range(2):
            moved = places.copy()
            moved[:, axis] += step
            slopes.append(light[:, None, None] * (_drawn(moved, shape, dx, dy, pixel, known) - base) / step)
        own = np.stack([base, *slopes], axis=-1).reshape(len(cut), -1, 3)
        common = np.stack(
            [light[:, None, None] * (_drawn(places, shape + step * one, dx, dy, pixel, known) - base) / step for one in np.eye(3)],
            axis=-1,
        ).reshape(len(cut), -1, 3)
        off = left.reshape(len(cut), -1, 1)
        normal = np.swapaxes(own, 1, 2) @ own
        normal += damping * np.trace(normal, axis1=1, axis2=2)[:, None, None] * np.eye(3) / 3.0
        into = np.linalg.solve(normal, np.swapaxes(own, 1, 2) @ np.concatenate([common, off], axis=2))
        rest, rest_off = common - own @ into[..., :3], off - own @ into[..., 3:]
        over = np.sqrt(np.sum(rest_off**2, axis=1, keepdims=True))
        trust = 1.0 / np.maximum(over / (FIT_ODD * np.median(over) + 1e-12), 1.0) ** 4
        gain = np.sum(trust * (np.swapaxes(rest, 1, 2) @ rest), axis=0)
        pull = np.sum(trust * (np.swapaxes(rest, 1, 2) @ rest_off), axis=0)
        change = np.linalg.solve(gain + 1e-9 * np.trace(gain) * np.eye(3), pull)[:, 0]
        change = np.clip(change, -0.3 * shape[0], 0.3 * shape[0])
        moves = (into[..., 3:] - into[..., :3] @ change[:, None])[:, 1:, 0]
        places = np.clip(places + np.clip(moves, -0.2, 0.2), -1.0, 1.0)
        shape = shape + change
        shape[:2] = np.maximum(shape[:2], LEAST_VARIANCE)
        shape[2] = np.clip(shape[2], -0.98 * np.sqrt(shape[0] * shape[1]), 0.98 * np.sqrt(shape[0] * shape[1]))
        if np.abs(change).max() < 1e-4:
            break
    xx, yy, xy = (float(one) for one in shape + own_width)
    return xx, yy, xy
