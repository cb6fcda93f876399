"""One frame of a run, from the file to the facts it is judged by, and what a person looks at.

Where another frame of the run is solved already its attitude is the first guess, and stars need no patterns to be named.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import sep
import tetra3rs
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from widedusk.core.frames.cuts import drawn
from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS, FrameFacts, FrameKind, MeanStar, Profile, Zone
from widedusk.core.frames.header import Header
from widedusk.core.frames.lit import clipped_percent, middle_background, sky_of
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.measure import ONE_PIXEL, Progress, drawn_small
from widedusk.core.frames.patterns import NARROWEST_DEG, WIDEST_DEG
from widedusk.core.frames.pointing import pointing
from widedusk.core.frames.read import read_picture
from widedusk.core.frames.shapes import FIT_STARS, Moments, shape_of, star_moments
from widedusk.core.frames.solve import focal_px_of, identify, match, shifted
from widedusk.core.frames.stars import BRIGHT_SHARE, LARGE_PIXELS, Found, find_stars
from widedusk.core.frames.streaks import find_streaks
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

SHAPED_STARS = 500
USUAL_PIXELS = 24_000_000
ROUNDS = 8
ZONE_LEAST = 4  # stars from which the middle has a shape, or a zone a zero point
ZONE_FIT_STARS = 12  # that narrow stars of a zone are fitted to, for speed
ZONE_SHAPE_LEAST = 2  # and a zone a shape: many frames tell it together
MIDDLE = 0.55  # of the half diagonal: where the lens is at its best
BLACK = 0.004  # of what a pixel holds, below which a picture was taken in the dark
BIAS_S = 1 / 500
FLAT_FROM = 0.08
LEAST_STARS = 10
ZERO_AT, LEAST_FOR_SLOPE = 0.15, 8  # squared half diagonals from the middle; stars that tell how the lens darkens
BRIGHTEST, BRIGHT_NAMED = 60, 0.3  # of the sources, and the share of them that a field which is known has names for
# Brightest sources that are looked at for twins, how far these may be, how nearly alike, and how many there must be. Our own.
TWIN_STARS, TWIN_FAR_WIDTHS, TWIN_PX, TWIN_LEAST = 200, 25.0, 0.7, 20
UNCLIPPED, OTHER_COLOURS = 0.7, 0.8  # of what a pixel holds, below which it has not clipped; light of the others beside a green one
NARROW = 0.6  # of the width of named stars, below which a source is none. Our own
TRAILED = 1.12  # elongation from which stars are measured as trails


@dataclass(frozen=True)
class Known:
    """How a frame of the same run was solved, for a first guess; in pixels of the plane that it was measured on."""

    toward: tuple[float, ...]  # nine figures, row by row
    focal_px: float
    bend: float
    mirrored: bool

    @classmethod
    def of(cls, matched: Matched) -> "Known":
        return cls(tuple(float(one) for one in matched.toward.ravel()), matched.focal_px, matched.bend, matched.mirrored)


@dataclass(frozen=True)
class Star:
    """A named star as one frame shows it: ICRS degrees, Johnson V, pixels of the file from its upper left, light in counts."""

    ra_deg: float
    dec_deg: float
    v_mag: float
    x: float
    y: float
    light: float


@dataclass(frozen=True)
class Frame:
    """crops: five pieces side by side as one JPEG, pixel for pixel."""

    header: Header
    binning: int
    facts: FrameFacts
    known: Known | None
    stars: tuple[Star, ...]
    preview: bytes
    crops: bytes


def read_frame(
    path: Path,
    book: Callable[[], tetra3rs.SolverDatabase],
    field: tuple[float | None, float | None],
    known: Known | None,
    progress: Progress,
) -> Frame:
    """Measure one frame. book: the patterns, fetched only where no other frame of the run helps. field: long
    side of the sensor and focal length, mm, where they are known.

    Raises InvalidInput with a plain sentence for a file that cannot be read; a picture without stars is no error.
    """
    progress(0.0, "reading the picture")
    picture = read_picture(path)
    progress(0.35, "finding stars")
    plane, clip = picture.plane, picture.clip
    sample = plane[::7, ::7]
    level = float(np.median(sample))
    stretched = max(1.4826 * float(np.median(np.abs(sample - level))), 1e-6)
    noise = _noise(plane)
    preview, crops = drawn_small(plane, level, stretched), drawn(picture.cuts())
    background, clipped = middle_background(plane), clipped_percent(plane, clip)
    by_zone = _backgrounds(plane) / clip
    # A small picture of a wide field has more stars to a pixel: it is searched for as large a share as holds its stars.
    share = BRIGHT_SHARE * float(np.clip(np.sqrt(USUAL_PIXELS / plane.size), 1.0, 6.0))
    found = find_stars(plane, SHAPED_STARS * 2, share, 0.7 * clip, TRAILED)
    progress(0.7, f"naming {found.count} stars")
    kind = kind_of_frame(found, background / clip, picture.header.exposure_s)
    matched = None
    if kind == "light" and found.count >= LEAST_STARS:
        matched = _named(book, found, field, known)
    moments = star_moments(plane, found.x, found.y, found.fwhm_px, clip - background, SHAPED_STARS, ROUNDS) if found.count else None
    moments = _without_hot_pixels(moments, found, matched)
    shape, profile = _middle(moments, found, picture.binning)
    long_px = FWHM_PER_SIGMA * np.sqrt(max(shape.xx, shape.yy)) / picture.binning if shape else found.fwhm_px
    room = _unclipped_share(float(long_px) * picture.binning, picture.binning) * (clip - background)
    light = _light(plane, found, matched, room, float(long_px)) if matched is not None else None
    zeros, zero = _zero_points(light, matched, found, clip, picture.header.exposure_s)
    zones = tuple(
        Zone(star, zero_mag, float(level))
        for star, zero_mag, level in zip(_shapes(moments, found, picture.binning), zeros, by_zone, strict=True)
    )
    sky: tuple[float | None, float | None, str] = (None, None, "its stars could not be named")
    if matched is not None and background < 0.9 * clip:
        told = sky_of(plane, background, clip, found, matched, 1.6 * float(long_px), picture.curved)
        sky = (told[0], told[1], told[3])
    facts = FrameFacts(
        kind,
        max(found.seen, found.count),
        0 if matched is None else int(matched.x.size),
        background / clip,
        noise / clip,
        clipped,
        shape,
        profile,
        zones,
        zero[0],
        zero[1],
        sky[0],
        sky[1],
        sky[2],
        None if matched is None else pointing(matched, found.width_px, found.height_px, picture.binning),
        find_streaks(plane, found, picture.binning) if kind == "light" else (),
        picture.curved,
    )
    progress(1.0, f"{facts.matched} stars known")
    guess = None if matched is None else Known.of(matched)
    return Frame(picture.header, picture.binning, facts, guess, _stars(matched, light, found, picture.binning), preview, crops)


TILE_PX, TILE_EVERY_PX, TILE_LAG_PX = 12, 24, 2
CALM_SHARE, OF_CALM_TILES = 0.1, 0.878  # of the tiles, and what their deviation is of that of all where nothing but noise is


def _noise(plane: NDArray[np.float32]) -> float:
    """Standard deviation of a pixel: of each against the mean of its neighbours two pixels to the left and right, so that a slope
    of the sky falls out, in small tiles, of which the calmest tenth of each zone holds no stars even where a field is crowded."""
    every = TILE_EVERY_PX * (2 if plane.size > LARGE_PIXELS else 1)
    height, width = (side // every * every for side in plane.shape)
    if not height or not width:
        return max(float(np.std(plane)), 1e-9)
    grid = plane[:height, :width].reshape(height // every, every, width // every, every)
    tiles = grid[:, :TILE_PX, :, :TILE_PX].astype(np.float64)
    off = tiles[..., TILE_LAG_PX:-TILE_LAG_PX] - (tiles[..., : -2 * TILE_LAG_PX] + tiles[..., 2 * TILE_LAG_PX :]) / 2.0
    variance = np.mean(np.square(off), axis=(1, 3)) / 1.5  # of one pixel, and of the mean of two: half as much
    zones = [part for rows in np.array_split(variance, ZONE_ROWS) for part in np.array_split(rows, ZONE_COLUMNS, axis=1)]
    calm = [np.quantile(part, CALM_SHARE) for part in zones if part.size]  # of each zone: the darkest corner is no measure of all
    return max(float(np.sqrt(np.median(calm))) / OF_CALM_TILES, 1e-9)


def _backgrounds(plane: NDArray[np.float32]) -> Floats:
    """Level of the sky in each zone, in counts."""
    height, width = plane.shape
    rows = np.linspace(0, height, ZONE_ROWS + 1).astype(int)
    columns = np.linspace(0, width, ZONE_COLUMNS + 1).astype(int)
    return np.array(
        [
            float(np.median(plane[rows[row] : rows[row + 1] : 5, columns[column] : columns[column + 1] : 5]))
            for row in range(ZONE_ROWS)
            for column in range(ZONE_COLUMNS)
        ]
    )


def kind_of_frame(found: Found, background: float, exposure_s: float | None) -> FrameKind:
    """Light, dark, flat or bias, by what the picture shows. background: share of what a pixel holds.

    A frame taken with the cap on by mistake is a dark by all that can be seen of it; when it was taken tells the two apart.
    """
    starless = found.count < LEAST_STARS or found.fwhm_px < ONE_PIXEL
    instant = exposure_s is not None and exposure_s <= BIAS_S
    if starless and (background < BLACK or (instant and background < FLAT_FROM)):  # a pedestal is not the light of an instant
        return "bias" if instant else "dark"
    if background > FLAT_FROM and found.count < LEAST_STARS and exposure_s is not None and exposure_s < 5.0:
        return "flat"
    return "light"


def _named(
    book: Callable[[], tetra3rs.SolverDatabase], found: Found, field: tuple[float | None, float | None], known: Known | None
) -> Matched | None:
    """Name the stars: by another frame of the run, else by patterns of four."""
    if known is not None:
        lens = (known.focal_px, known.bend, known.mirrored)
        near = match(found, shifted(found, np.array(known.toward).reshape(3, 3), *lens), *lens)
        # Faint stars fall on sources by chance, where the field has turned meanwhile; the brightest do not.
        bright = (-found.x if known.mirrored else found.x)[:BRIGHTEST]
        if near is not None and np.count_nonzero(np.isin(bright, near.x)) > BRIGHT_NAMED * bright.size:
            return near
    sensor_mm, focal_mm = field
    focal_px = None
    if sensor_mm is not None and focal_mm is not None:
        focal_px = focal_mm / sensor_mm * max(found.width_px, found.height_px)
        narrow, wide = (focal_px_of(angle, found.width_px) for angle in (NARROWEST_DEG, WIDEST_DEG))
        if not 0.9 * wide <= focal_px <= 1.1 * narrow:
            return None
    return identify(book(), found, focal_px)


def _zone_of(x: Floats, y: Floats, found: Found) -> NDArray[np.intp]:
    column = np.clip((x / found.width_px + 0.5) * ZONE_COLUMNS, 0, ZONE_COLUMNS - 1).astype(int)
    row = np.clip((y / found.height_px + 0.5) * ZONE_ROWS, 0, ZONE_ROWS - 1).astype(int)
    return np.asarray(row * ZONE_COLUMNS + column)


def _tensor(moments: Moments, chosen: NDArray[np.bool_], most: int = FIT_STARS) -> tuple[float, float, float]:
    """Variances and covariance of the typical of some stars, px² of the plane; narrow ones have a fit of their own."""
    shape = shape_of(moments.some(chosen), most=most)
    along, across = ((one / FWHM_PER_SIGMA) ** 2 for one in (shape.long_px, shape.short_px))
    twice, mean, spread = np.radians(2.0 * shape.angle_deg), (along + across) / 2, (along - across) / 2
    return float(mean + spread * np.cos(twice)), float(mean - spread * np.cos(twice)), float(spread * np.sin(twice))


def _of_file(moments: Moments, chosen: NDArray[np.bool_], binning: int, most: int = FIT_STARS) -> MeanStar:
    """The typical of some stars, in pixels of the file: of a plane that was halved, the wider pixel's own variance is taken off."""
    own = (binning**2 - 1) / 12.0
    xx, yy, xy = (one * binning**2 for one in _tensor(moments, chosen, most))
    return MeanStar(int(np.count_nonzero(chosen)), max(xx - own, 0.05), max(yy - own, 0.05), xy)


def _without_hot_pixels(moments: Moments | None, found: Found, matched: Matched | None) -> Moments | None:
    """Without sources that have no name and are far narrower than those that have one: no star is, but a pixel that is hot."""
    if moments is None or matched is None:
        return moments
    named = np.isin(found.x[moments.which], -matched.x if matched.mirrored else matched.x)
    size = moments.xx + moments.yy
    if np.count_nonzero(named) < ZONE_LEAST:
        return moments
    return moments.some(named | (size > NARROW**2 * np.median(size[named])))


def _shapes(moments: Moments | None, found: Found, binning: int) -> list[MeanStar | None]:
    count = ZONE_COLUMNS * ZONE_ROWS
    if moments is None:
        return [None] * count
    zone = _zone_of(found.x[moments.which], found.y[moments.which], found)
    return [
        _of_file(moments, zone == one, binning, ZONE_FIT_STARS) if np.count_nonzero(zone == one) >= ZONE_SHAPE_LEAST else None
        for one in range(count)
    ]


def _middle(moments: Moments | None, found: Found, binning: int) -> tuple[MeanStar | None, Profile | None]:
    """The typical star of the middle of the picture, and its profile; of the whole picture where the middle is poor in stars."""
    if moments is None:
        return _of_outlines(found, binning), None
    half = np.hypot(found.width_px, found.height_px) / 2
    chosen = np.hypot(found.x[moments.which], found.y[moments.which]) < MIDDLE * half
    if np.count_nonzero(chosen) < 2 * ZONE_LEAST:
        chosen = np.ones(moments.which.size, dtype=bool)
    profile = _profile(moments, chosen)
    return _of_file(moments, chosen, binning), replace(profile, second=max(profile.second, twins(found)))


def twins(found: Found) -> float:
    """What share of the brighter sources has another at one and the same distance and direction, beyond what chance brings: a
    picture that jumped while it was taken, or a ghost. 0 to 1."""
    place = np.column_stack([found.x, found.y])[:TWIN_STARS]
    pairs = cKDTree(place).query_pairs(TWIN_FAR_WIDTHS * max(found.fwhm_px, 1.5), output_type="ndarray")
    if len(place) < TWIN_LEAST or len(pairs) < TWIN_LEAST // 2:
        return 0.0
    apart = place[pairs[:, 1]] - place[pairs[:, 0]]
    apart *= np.where((apart[:, :1] < 0) | ((apart[:, :1] == 0) & (apart[:, 1:] < 0)), -1.0, 1.0)
    alike = cKDTree(apart).query_ball_point(apart, TWIN_PX, return_length=True)
    return float(np.clip((2.0 * float(alike.max()) - 4.0 * float(np.median(alike))) / len(place), 0.0, 1.0))


def _of_outlines(found: Found, binning: int) -> MeanStar | None:
    """Where every star clips or crowds: from the outlines of the sources, which is rougher."""
    if found.count < ZONE_LEAST:
        return None
    area = (found.fwhm_px / FWHM_PER_SIGMA) ** 2 * binning**2
    along, across = area * found.axis_ratio, area / found.axis_ratio
    twice, mean, spread = np.radians(2.0 * found.trail_deg), (along + across) / 2, found.alike * (along - across) / 2
    return MeanStar(0, float(mean + spread * np.cos(twice)), float(mean - spread * np.cos(twice)), float(spread * np.sin(twice)))


def _profile(moments: Moments, chosen: NDArray[np.bool_]) -> Profile:
    """The mean of stars of one light each, against the Gaussian that has their moments."""
    cut, dx, dy = moments.cut[chosen], moments.dx[chosen], moments.dy[chosen]
    xx, yy, xy = _tensor(moments, chosen)
    det = xx * yy - xy * xy
    far = np.sqrt((yy * dx**2 + xx * dy**2 - 2 * xy * dx * dy) / det)  # in standard deviations
    core = np.where(far < 2.0, cut, 0.0).sum(axis=(1, 2))
    cut = cut / np.maximum(core, 1e-9)[:, None, None]

    def mean(low: float, high: float) -> float:
        inside = (far >= low) & (far < high)
        return float(np.median(np.where(inside, cut, 0.0).sum(axis=(1, 2)) / np.maximum(inside.sum(axis=(1, 2)), 1)))

    middle, half_way = mean(0.0, 0.6), mean(0.97, 1.4)  # 1.177 standard deviations are half of a width
    ring = mean(2.4, 4.2) * np.pi * (4.2**2 - 2.4**2) * np.sqrt(det)
    gauss = (np.exp(-(2.4**2) / 2) - np.exp(-(4.2**2) / 2)) / (1 - np.exp(-2.0))
    stack = np.median(cut, axis=0)
    size = stack.shape[0] // 2
    rows, columns = np.ogrid[-size : size + 1, -size : size + 1]
    beside = (yy * columns**2 + xx * rows**2 - 2 * xy * rows * columns) / det > 3.0**2
    second = float(np.max(np.where(beside, stack, 0.0)) / max(float(stack[size, size]), 1e-9))
    return Profile(float(ring - gauss), middle / max(half_way, 1e-9), second)


def _unclipped_share(fwhm_px: float, binning: int) -> float:
    """Of what a pixel holds, below which no star's brightest has clipped. Of four pixels made one a single one may have: then the
    others of a narrow star hold far less. fwhm_px: of the file."""
    if binning == 1:
        return UNCLIPPED
    beside = float(np.exp(-4.0 * np.log(2.0) / max(fwhm_px, 1.0) ** 2))
    return min(UNCLIPPED, OTHER_COLOURS * ((1.0 + beside) / 2.0) ** 2)


def _light(plane: NDArray[np.float32], found: Found, matched: Matched, room: float, long_px: float) -> Floats:
    """Counts of each named star in a circle; NaN where it clips, is cut by the edge, or drowns."""
    x = -matched.x if matched.mirrored else matched.x
    column, row = x + (found.width_px - 1) / 2, matched.y + (found.height_px - 1) / 2
    radius = float(np.clip(1.6 * long_px, 3.0, 60.0))
    light, _, flag = sep.sum_circle(plane, column, row, radius, gain=1.0)
    near = np.clip(np.rint(np.stack([row, column])).astype(int), 0, np.array([[found.height_px - 1], [found.width_px - 1]]))
    sound = (flag == 0) & (light > 4.0 * found.noise * np.sqrt(np.pi) * radius) & (plane[near[0], near[1]] < room)
    return np.where(sound, light, np.nan)


def _zero_points(
    light: Floats | None, matched: Matched | None, found: Found, clip: float, exposure_s: float | None
) -> tuple[list[float | None], tuple[float | None, float | None]]:
    """Of each zone, and of the middle with its standard error."""
    count = ZONE_COLUMNS * ZONE_ROWS
    if light is None or matched is None:
        return [None] * count, (None, None)
    x = -matched.x if matched.mirrored else matched.x
    usable = np.isfinite(light) & np.isfinite(matched.v_magnitude)
    zone = _zone_of(x, matched.y, found)
    with np.errstate(invalid="ignore", divide="ignore"):
        zero = matched.v_magnitude + 2.5 * np.log10(light / clip / (exposure_s or 1.0))
    zeros = [
        float(np.median(zero[usable & (zone == one)])) if np.count_nonzero(usable & (zone == one)) >= ZONE_LEAST else None
        for one in range(count)
    ]
    if np.count_nonzero(usable) < ZONE_LEAST:
        return zeros, (None, None)
    half = np.hypot(found.width_px, found.height_px) / 2
    return zeros, _zero_point(zero[usable], np.square(np.hypot(x, matched.y)[usable] / half))


def _zero_point(zero: Floats, away: Floats) -> tuple[float, float]:
    """Where the picture is lit as in its middle part, with its standard error. away: from the middle, in half diagonals, squared.

    A lens darkens towards its corners, and which stars clip differs from frame to frame: its slope is fitted beside."""
    columns = [np.ones(zero.size), away - ZERO_AT] if zero.size >= LEAST_FOR_SLOPE else [np.ones(zero.size)]
    design = np.stack(columns, axis=1)
    weight, told = np.ones(zero.size), np.zeros(len(columns))
    for _ in range(8):  # Huber's weights: some stars vary, and some are two
        told, *_ = np.linalg.lstsq(design * np.sqrt(weight)[:, None], zero * np.sqrt(weight), rcond=None)
        off = zero - design @ told
        scatter = max(1.4826 * float(np.median(np.abs(off))), 1e-4)
        weight = 1.0 / np.maximum(np.abs(off) / (1.5 * scatter), 1.0)
    scatter = max(scatter, float(np.std(off))) if zero.size < LEAST_FOR_SLOPE else scatter
    spread = np.linalg.pinv(design.T @ (design * weight[:, None]))
    return float(told[0]), 1.1 * scatter * float(np.sqrt(spread[0, 0]))


MOST_TOLD = 300


def _stars(matched: Matched | None, light: Floats | None, found: Found, binning: int) -> tuple[Star, ...]:
    """Named stars, as a list that other programs can use."""
    if matched is None or light is None:
        return ()
    x = -matched.x if matched.mirrored else matched.x
    ra = np.degrees(np.arctan2(matched.vectors[:, 1], matched.vectors[:, 0])) % 360.0
    dec = np.degrees(np.arcsin(np.clip(matched.vectors[:, 2], -1.0, 1.0)))
    told = np.flatnonzero(np.isfinite(light) & np.isfinite(matched.v_magnitude))[:MOST_TOLD]
    return tuple(
        Star(
            float(ra[one]), float(dec[one]), float(matched.v_magnitude[one]), float((x[one] + found.width_px / 2) * binning),
            float((matched.y[one] + found.height_px / 2) * binning), float(light[one]),
        )
        for one in told
    )  # fmt: skip
