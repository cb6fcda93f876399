"""Stars in a picture, and what their shapes say when it cannot be used."""

from dataclasses import dataclass

import numpy as np
import sep
from numpy.typing import NDArray

from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

THRESHOLD_SIGMA = 5.0
BRIGHT_SHARE = 0.002  # of the pixels may lie above the threshold: a rich field is searched for its brighter stars only
MOST_STARS = 600
LEAST_AREA_PX = 3
EDGE_PX = 4


LARGE_PIXELS = 4_000_000


@dataclass(frozen=True)
class Found:
    """Stars from the brightest: places in pixels from the middle of the picture (x right, y down), light in counts.

    fwhm_px and axis_ratio are medians over the middle half in brightness, where nothing clips;
    trail_deg is the common direction of their long axes, from x
    towards y, and alike how much they agree on it, 0 to 1. background and noise are in counts.
    """

    x: Floats
    y: Floats
    light: Floats
    width_px: int
    height_px: int
    fwhm_px: float
    axis_ratio: float
    trail_deg: float
    alike: float
    background: float
    noise: float
    ratios: Floats | None = None  # long over short axis of each
    seen: int = 0  # sources in all, those that were left away too

    @property
    def count(self) -> int:
        return int(self.x.size)


def find_stars(
    image: NDArray[np.float32],
    most: int = MOST_STARS,
    bright_share: float = BRIGHT_SHARE,
    unclipped_below: float = np.inf,
    barycentres_from: float = np.inf,
) -> Found:
    """Point-like sources above five times the noise, with windowed centroids.

    image: luminance, shape (rows, columns), C-contiguous; it is overwritten by itself less its background.
    most: of the brightest that are kept. unclipped_below: counts; where it is given, half of them are the brightest of those whose
    own brightest pixel stays below it, background included. barycentres_from: elongation from which the middle of a star is the
    mean of its light: a window leans to where a trail is densest.
    Source of detection and centroids: Bertin & Arnouts 1996, A&AS 117, 393, through sep.
    """
    height, width = image.shape
    box = int(np.clip(max(width, height) // 48, 32, 256))
    if image.size > LARGE_PIXELS:  # of every second pixel each way; its level is the same for four
        level = sep.Background(np.ascontiguousarray(image[::2, ::2]), bw=max(box // 2, 32), bh=max(box // 2, 32))
        back = level.back()
        for down in (0, 1):
            for right in (0, 1):
                part = image[down::2, right::2]
                part -= back[: part.shape[0], : part.shape[1]]
    else:
        level = sep.Background(image, bw=box, bh=box)
        level.subfrom(image)
    background, noise = float(level.globalback), float(level.globalrms)
    noise = max(noise, 1e-6)
    some = 6 if image.size > LARGE_PIXELS else 3
    threshold = max(THRESHOLD_SIGMA, float(np.quantile(image[::some, ::some], 1.0 - bright_share)) / noise)
    sep.set_extract_pixstack(1_000_000)
    try:
        rows = sep.extract(image, threshold, err=noise, minarea=LEAST_AREA_PX, deblend_cont=0.05)
    except Exception as refused:  # sep raises a bare Exception when more pixels are bright than its stack holds
        if "pixel" not in str(refused):
            raise
        rows = sep.extract(image, threshold * 6, err=noise, minarea=LEAST_AREA_PX, deblend_cont=0.05)
    sound = (rows["a"] > 0.3) & (rows["b"] > 0.15) & (rows["npix"] < 0.01 * width * height)
    sound &= (rows["x"] > EDGE_PX) & (rows["x"] < width - 1 - EDGE_PX) & (rows["y"] > EDGE_PX) & (rows["y"] < height - 1 - EDGE_PX)
    rows = rows[sound]
    rows = rows[np.argsort(rows["flux"])[::-1]]
    seen = int(rows.size)
    if np.isfinite(unclipped_below):
        dim = rows["peak"] < unclipped_below - background
        rows = rows[(np.cumsum(~dim) <= most // 2) & ~dim | (np.cumsum(dim) <= most // 2) & dim]
    rows = rows[:most]
    if rows.size == 0:
        nothing = np.array([])
        return Found(nothing, nothing, nothing, width, height, 0.0, 1.0, 0.0, 0.0, background, noise)
    middle = rows[rows.size // 4 : max(3 * rows.size // 4, min(rows.size, 12))]
    ratio, turned = middle["a"] / middle["b"], np.exp(2j * middle["theta"])
    agreed = np.mean(turned)
    fwhm = FWHM_PER_SIGMA * float(np.median(np.sqrt(middle["a"] * middle["b"])))
    x, y, failed = sep.winpos(image, rows["x"], rows["y"], np.full(rows.size, max(fwhm, 1.5) / FWHM_PER_SIGMA))
    moved = ((failed & ~sep.APER_TRUNC) != 0) | (float(np.median(ratio)) > barycentres_from)
    x, y = np.where(moved, rows["x"], x), np.where(moved, rows["y"], y)
    return Found(
        np.asarray(x - (width - 1) / 2.0),
        np.asarray(y - (height - 1) / 2.0),
        np.asarray(rows["flux"], dtype=float),
        width,
        height,
        fwhm,
        float(np.median(ratio)),
        float(np.degrees(np.angle(agreed)) / 2.0 % 180.0),
        float(np.abs(agreed)),
        background,
        noise,
        np.asarray(rows["a"] / rows["b"], dtype=float),
        seen,
    )
