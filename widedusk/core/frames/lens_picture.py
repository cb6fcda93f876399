"""One picture taken to see what a lens does to stars: their shapes by zone and colour, colours that part, spikes, dark corners."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.colours import Colours, read_colours
from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS
from widedusk.core.frames.lens_facts import ColourName, LensPicture, Parted, Spikes, Spot
from widedusk.core.frames.measure import Progress
from widedusk.core.frames.read import Plane
from widedusk.core.frames.shapes import SAMPLED_FROM_PX, Moments, shape_of, star_moments
from widedusk.core.frames.stars import Found, find_stars
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

MOST_STARS, SHAPED_STARS, ROUNDS = 3000, 700, 30
ZONE_LEAST = 4  # stars from which a zone has a shape
STARS_WANTED = 60
BRIGHT_SKY = 0.7  # of what a pixel can hold; star shapes are read below it, too. Our own
FIELD_ZONES, FIELD_MOST = 12, 0.3  # zones from which a smooth field is fitted, and share of a variance it may put right. Our own
LEAST_PX2 = 0.02  # of a variance
NARROW_SCATTER = 0.15  # of the variance of one narrow star, by zones of an even field. Our own
# In its brightest pixel, from which a star has a shape of its own rather than that of the noise.
FAINT_SIGMA, BRIGHT_SIGMA = 7.0, 20.0
BRIGHT_SHARE, USUAL_PIXELS = 0.006, 24_000_000  # a small picture of a wide field has more stars to a pixel
BOXES = (18, 12)  # across and down, in which the sky is read
RING = (4.0, 9.0)  # widths from a bright star within which its spikes are looked for
ANGLES = 120
SPIKE_STARS = 8
SAME_PX = 1e-3  # by which two colours differ at least where a star's place is told at all
SPIKE_SURE = 6.0


def read_lens_picture(path: Path, progress: Progress) -> LensPicture:
    """Measure one picture. Raises InvalidInput with a plain sentence where it does not show the lens."""
    progress(0.0, "reading the picture")
    given = read_colours(path)
    corner, corner_sigma = _corner_light(given)
    clip = {name: given.clip - one.level(every=7) for name, one in given.colours.items()}
    green = given.colours["green"]
    progress(0.3, "finding stars")
    share = BRIGHT_SHARE * float(np.clip(np.sqrt(USUAL_PIXELS / green.plane.size), 1.0, 6.0))
    found = find_stars(green.plane, MOST_STARS, share, 0.7 * given.clip)
    for name, one in given.colours.items():
        if name != "green":
            one.take_sky_off()
    if found.count < STARS_WANTED:
        bright = clip["green"] < (1.0 - BRIGHT_SKY) * given.clip
        told = f"“{path.name}” shows {found.count} stars; {STARS_WANTED} all over the picture are needed. " + (
            "Its sky is nearly as bright as the file can hold: expose shorter, or wait for a darker sky."
            if bright
            else "Expose longer, or look at a richer field, the Milky Way best of all."
        )
        raise InvalidInput([Fault("picture", path.name, told)])
    progress(0.5, f"measuring {min(found.count, SHAPED_STARS)} stars")
    moments = {name: _moments(given, name, found, clip[name]) for name in given.colours}
    progress(0.8, "reading zones and colours")
    zones = {name: _zones(one, found, given) for name, one in moments.items()}
    parted = {name: _parted(one, moments["green"], found, given.step) for name, one in moments.items() if name != "green"}
    header = given.header
    spikes = _spikes(green.plane, found)
    progress(1.0, "measured")
    return LensPicture(
        header.f_number,
        header.exposure_s,
        header.focal_mm,
        header.width_px,
        header.height_px,
        0 if moments["green"] is None else int(moments["green"].which.size),
        zones,
        {name: one for name, one in parted.items() if one is not None},
        corner,
        corner_sigma,
        spikes,
        given.curved,
    )


def _moments(given: Colours, name: ColourName, found: Found, room: float) -> Moments | None:
    """Of the stars that green shows, each looked for in this colour where it would lie without any fault of the lens."""
    one, green = given.colours[name], given.colours["green"]
    x, y = found.x + (green.left - one.left) / given.step, found.y + (green.top - one.top) / given.step
    return star_moments(one.plane, x, y, found.fwhm_px, room, SHAPED_STARS, ROUNDS, one.own)


def _places(moments: Moments, found: Found) -> tuple[Floats, Floats]:
    """In half diagonals of the picture from its middle."""
    half = float(np.hypot(found.width_px, found.height_px)) / 2.0
    return found.x[moments.which] / half, found.y[moments.which] / half


def _zones(moments: Moments | None, found: Found, given: Colours) -> tuple[Spot | None, ...]:
    if moments is None:
        return (None,) * (ZONE_COLUMNS * ZONE_ROWS)
    x, y = found.x[moments.which], found.y[moments.which]
    column = np.clip((x / found.width_px + 0.5) * ZONE_COLUMNS, 0, ZONE_COLUMNS - 1).astype(int)
    row = np.clip((y / found.height_px + 0.5) * ZONE_ROWS, 0, ZONE_ROWS - 1).astype(int)
    zone = row * ZONE_COLUMNS + column
    # A window that has run away, or a star that is two, tells nothing of the lens.
    sound = np.hypot(moments.off_x, moments.off_y) < max(found.fwhm_px, 2.0)
    peak = moments.cut.max(axis=(1, 2)) / found.noise

    def spot(inside: NDArray[np.bool_]) -> tuple[Spot, Floats] | None:
        for least in (BRIGHT_SIGMA, FAINT_SIGMA):  # a colour out of focus is spread thin
            chosen = inside & sound & (peak > least)
            if np.count_nonzero(chosen) >= ZONE_LEAST:
                at = np.array([np.mean(x[chosen]) / found.width_px, np.mean(y[chosen]) / found.height_px])
                return _spot(moments.some(chosen), given), at
        return None

    return _at_middles([spot(zone == one) for one in range(ZONE_COLUMNS * ZONE_ROWS)])


def _at_middles(seen: Sequence[tuple[Spot, Floats] | None]) -> tuple[Spot | None, ...]:
    """Every zone's star as wide as it is in the zone's middle. Stars bright enough to be measured are sharper than the rest, so
    that in a zone of steep change they lie to one side, given in widths and heights of the picture from its middle: by as much as a
    smooth field over all zones changes from there, they are put right, as far as that stands out from what it leaves open."""
    known = [one for one, each in enumerate(seen) if each is not None]
    spots = [each[0] for each in seen if each is not None]
    if len(known) < FIELD_ZONES:
        return tuple(None if one is None else one[0] for one in seen)
    middles = np.array([[one % ZONE_COLUMNS, one // ZONE_COLUMNS] for one in known])
    there = _smooth((middles + 0.5) / (ZONE_COLUMNS, ZONE_ROWS) - 0.5)
    here = _smooth(np.array([each[1] for each in seen if each is not None]))
    mean = np.array([(one.xx + one.yy) / 2 for one in spots])
    weight = 1.0 / np.array([one.sigma for one in spots])
    design = here * weight[:, None]
    field = np.linalg.lstsq(design, mean * weight, rcond=None)[0]
    change = (there - here) @ field
    unsure = np.einsum("zi,ij,zj->z", there - here, np.linalg.pinv(design.T @ design), there - here)
    change *= change**2 / np.maximum(change**2 + unsure, 1e-12)
    times = 1.0 + np.clip(change / mean, -FIELD_MOST, FIELD_MOST)
    put = [replace(one, xx=one.xx * by, yy=one.yy * by, xy=one.xy * by) for one, by in zip(spots, times.tolist(), strict=True)]
    right = dict(zip(known, put, strict=True))
    return tuple(right.get(one) for one in range(len(seen)))


def _smooth(places: Floats) -> Floats:
    """What a field over five by three zones can hold: cubes across, squares down."""
    x, y = places.T
    return np.stack([np.ones_like(x), x, y, x**2, x * y, y**2, x**3, x**2 * y, x * y**2], axis=1)


def _spot(moments: Moments, given: Colours) -> Spot:
    mean = (moments.xx + moments.yy) / 2.0
    narrow = FWHM_PER_SIGMA * np.sqrt(float(np.median(mean))) < SAMPLED_FROM_PX * moments.apart
    if narrow:
        shape = shape_of(moments, given.pixel)
        along, across = ((one / FWHM_PER_SIGMA) ** 2 for one in (shape.long_px, shape.short_px))
        twice, level, spread = np.radians(2.0 * shape.angle_deg), (along + across) / 2, (along - across) / 2
        xx, yy, xy = level + spread * np.cos(twice), level - spread * np.cos(twice), spread * np.sin(twice)
    else:
        xx, yy, xy = (float(np.median(one)) for one in (moments.xx, moments.yy, moments.xy))
        level = (xx + yy) / 2
    scatter = 1.4826 * float(np.median(np.abs(mean - np.median(mean))))
    # Moments of narrow stars fall to the bottom and say nothing of how sure the common fit is.
    sigma = (NARROW_SCATTER * level if narrow else 1.2533 * scatter) / np.sqrt(mean.size)
    size = given.step**2
    return Spot(
        int(mean.size),
        max(float(xx) * size - given.own, LEAST_PX2),
        max(float(yy) * size - given.own, LEAST_PX2),
        float(xy) * size,
        max(float(sigma) * size, 0.005),
    )


def _parted(moments: Moments | None, green: Moments | None, found: Found, step: int) -> Parted | None:
    """A stretch about the middle and a shift, fitted to where the same stars lie in this colour and in green; twice, the second
    time without those that agree badly."""
    if moments is None or green is None:
        return None
    _, here, there = np.intersect1d(moments.which, green.which, return_indices=True)
    if here.size < STARS_WANTED // 3:
        return None
    x, y = (one[here] for one in _places(moments, found))
    right = (moments.off_x[here] - green.off_x[there]) * step
    down = (moments.off_y[here] - green.off_y[there]) * step
    design = np.concatenate([np.stack([x, np.ones_like(x), 0 * x], 1), np.stack([y, 0 * y, np.ones_like(y)], 1)])
    target = np.concatenate([right, down])
    sound = np.abs(target) < max(found.fwhm_px * step, 2.0)
    if np.count_nonzero(sound) < STARS_WANTED // 3:
        return None
    fitted = np.zeros(3)
    for _ in range(3):
        fitted = np.linalg.lstsq(design[sound], target[sound], rcond=None)[0]
        off = target - design @ fitted
        spread = 1.4826 * float(np.median(np.abs(off[sound])))
        if spread < SAME_PX:  # most of such narrow stars sit in one pixel in both colours: the others tell, by how many they are
            spread = float(np.std(off[sound]))
        sound = np.abs(off) < 3.5 * max(spread, 1e-4)
        if np.count_nonzero(sound) < STARS_WANTED // 3:
            return None
    inverse = np.linalg.pinv(design[sound].T @ design[sound])
    sigma = float(np.std(off[sound]) * np.sqrt(inverse[0, 0]))
    return Parted(float(fitted[0]), sigma, float(fitted[1]), float(fitted[2]))


def _corner_light(given: Colours) -> tuple[float | None, float | None]:
    """From the sky in boxes: an even slope is the sky's own, what falls off about the middle is the lens's.

    The fall goes as 1 - a r² - b r⁴, r in half diagonals. Sigma is that of the fit; what the sky does beyond a slope is not in it.
    """
    colours = given.colours.values()
    height, width = given.colours["green"].plane.shape
    columns, rows = np.linspace(0, width, BOXES[0] + 1).astype(int), np.linspace(0, height, BOXES[1] + 1).astype(int)
    half = float(np.hypot(width, height)) / 2.0
    level, x, y = [], [], []
    for top, bottom in pairwise(rows):
        for left, right in pairwise(columns):
            level.append(sum(one.level(slice(top, bottom), slice(left, right)) for one in colours))
            x.append(((left + right - 1) / 2 - (width - 1) / 2) / half)
            y.append(((top + bottom - 1) / 2 - (height - 1) / 2) / half)
    sky, px, py = np.array(level), np.array(x), np.array(y)
    middle = float(np.median(sky[np.hypot(px, py) < 0.35]))
    if not middle > 0.002 * given.clip * len(colours):
        return None, None
    r2 = px**2 + py**2

    def off(values: Floats) -> Floats:
        b0, gx, gy, a, b = values
        return np.asarray(b0 * (1 + gx * px + gy * py) * (1 - a * r2 - b * r2**2) - sky / middle)

    found = least_squares(off, [1.0, 0.0, 0.0, 0.2, 0.05], loss="soft_l1", f_scale=0.01)
    spread = 1.4826 * float(np.median(np.abs(found.fun)))
    covariance = np.linalg.pinv(found.jac.T @ found.jac) * spread**2
    light = 1.0 - float(found.x[3] + found.x[4])
    sigma = float(np.sqrt(max(covariance[3, 3] + covariance[4, 4] + 2 * covariance[3, 4], 0.0)))
    return float(np.clip(light, 0.0, 1.2)), sigma


def _spikes(plane: Plane, found: Found) -> Spikes:
    """Light about the brightest stars by angle. A blade makes two rays: n blades give n of them, or 2n where n is odd."""
    height, width = plane.shape
    inner, outer = (one * max(found.fwhm_px, 2.0) for one in RING)
    room = (np.abs(found.x) < width / 2 - outer - 2) & (np.abs(found.y) < height / 2 - outer - 2)
    chosen = np.flatnonzero(room)[np.argsort(found.light[room])[::-1]][:SPIKE_STARS]
    if chosen.size < SPIKE_STARS // 2:
        return Spikes(0, 0.0)
    reach = int(np.ceil(outer))
    offset = np.arange(-reach, reach + 1)
    profiles = []
    for star in chosen:
        column, row = found.x[star] + (width - 1) / 2, found.y[star] + (height - 1) / 2
        columns, rows = np.rint(column).astype(int) + offset, np.rint(row).astype(int) + offset
        cut = plane[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
        dx, dy = np.broadcast_arrays(columns[None, :] - column, rows[:, None] - row)
        profiles.append(_by_angle(cut, dx, dy, inner, outer))
    profile = np.median(np.array(profiles), axis=0)
    return _rays(profile)


def _by_angle(cut: NDArray[np.float32], dx: Floats, dy: Floats, inner: float, outer: float) -> Floats:
    """Mean light in each direction; every pixel shared between the two nearest."""
    away = np.hypot(dx, dy)
    ring = (away >= inner) & (away < outer)
    at = (np.arctan2(dy[ring], dx[ring]) / (2 * np.pi) % 1.0) * ANGLES
    low, share = np.floor(at).astype(int), at - np.floor(at)
    light = np.minimum(cut[ring], 20 * np.median(np.abs(cut[ring])) + np.median(cut[ring]))  # a neighbour is no ray
    total = np.bincount(low % ANGLES, light * (1 - share), ANGLES) + np.bincount((low + 1) % ANGLES, light * share, ANGLES)
    count = np.bincount(low % ANGLES, 1 - share, ANGLES) + np.bincount((low + 1) % ANGLES, share, ANGLES)
    return np.asarray(total / np.maximum(count, 0.2))


def _rays(profile: Floats) -> Spikes:
    """Of an evenly spaced star of rays the whole comb of harmonics stands out; the first of them tells how many there are."""
    level = float(np.median(profile))
    strength = np.abs(np.fft.rfft(profile - level)) / ANGLES
    noise = float(np.median(strength[1:]))
    best, count = 0.0, 0
    for rays in range(4, 25, 2):
        comb = strength[np.arange(rays, strength.size, rays)]
        told = float(np.mean(comb[:2])) if comb.size else 0.0
        if told > best * 1.05:
            best, count = told, rays
    if noise <= 0 or best < SPIKE_SURE * noise:
        return Spikes(0, 0.0)
    above = np.maximum(profile - level, 0.0)
    return Spikes(count, float(np.sum(above) / max(float(np.sum(np.maximum(profile, 0.0))), 1e-9)))
