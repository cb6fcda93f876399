"""A run of frames that nobody took, with what spoiled it and which frames are good kept beside it.

A scene is a site, a tracker, a camera and where it looks. What happens to one frame is a `Happening`: where the picture moved
while it was open, what stood before the glass, how bright the sky was. Stars are drawn one by one with a covariance of their own
and carried along the true path; nothing here knows how frames are measured or judged.
"""

from dataclasses import dataclass, field
from datetime import datetime, timedelta

import erfa
import numpy as np
from numpy.typing import NDArray

from widedusk.core.simulate.camera import VEGA_PHOTONS, Camera, Pointing, astrometry, observed
from widedusk.core.simulate.mount import Floats, Mount

PIXEL_VARIANCE = 1.0 / 12.0  # of a square pixel
WIDTH_PER_SIGMA = 2.3548
HALO_SIGMA_PX = 7.0
FAR = 20.0  # px beyond the edge that are still drawn
AIR_AND_YEARS = 0.035  # radians by which air, aberration and a century of precession move a star at most


@dataclass(frozen=True)
class Glass:
    """What a lens does to its stars everywhere alike in time. coma_px: standard deviation along the radius in the corner;
    soft_px: of a round star at the far end of a picture whose lens sits askew, and towards where that end lies."""

    coma_px: float = 0.0
    soft_px: float = 0.0
    soft_towards_deg: float = 0.0
    astigmatism_px: float = 0.0  # along one direction, all over
    astigmatism_deg: float = 0.0


@dataclass(frozen=True)
class Streak:
    """A line of light. From and to: pixels from the middle; light a pixel of its length, electrons. dots: how often it blinks;
    spindle: it swells and fades."""

    start: tuple[float, float]
    end: tuple[float, float]
    light_e: float
    dots: int = 0
    spindle: bool = False


@dataclass(frozen=True)
class Happening:
    """What acts on one frame. path: px right and down besides what the tracker does, at even moments, shape (moments, 2)."""

    path: Floats = field(default_factory=lambda: np.zeros((1, 2)))
    turn_deg: tuple[float, float] = (0.0, 0.0)  # of the field about `about`, at its beginning and end
    about: tuple[float, float] = (0.0, 0.0)  # px from the middle
    blur_px: float = 0.0  # standard deviation added to every star
    disc_px: float = 0.0  # radius of the disc that a star becomes out of focus
    halo: float = 0.0  # share of the light that goes there
    clear: float = 1.0  # share of starlight that comes through
    patches: tuple[float, float, float] = (0.0, 0.0, 0.0)  # cloud: how much it varies over the picture, towards (rad), phase
    sky: float = 1.0  # times the dark sky
    slope: tuple[float, float] = (0.0, 0.0)  # of the sky, share of it from the middle to the right and the lower edge
    gain: float = 1.0  # of all light, when settings were changed
    hidden: float = 0.0  # share of the picture, from below, behind something
    capped: bool = False
    ghost_px: tuple[float, float] = (0.0, 0.0)  # a second image of every star, as bright as a third of it
    streak: Streak | None = None


@dataclass(frozen=True)
class Scene:
    """drive_rate: of the sidereal, 0 stands still, -1 the wrong way; stops_s: since the first frame, when it stands still."""

    camera: Camera
    mount: Mount
    pointing: Pointing
    start: datetime
    exposure_s: float
    gap_s: float
    glass: Glass = Glass()
    drive_rate: float = 1.0
    stops_s: float = np.inf
    guided: bool = False

    def begins_s(self, number: int) -> float:
        return number * (self.exposure_s + self.gap_s)

    def moment(self, seconds: float) -> datetime:
        return self.start + timedelta(seconds=seconds)

    def drive_s(self, seconds: float) -> float:
        """What the tracker makes of the time since it was started."""
        return self.drive_rate * min(seconds, self.stops_s)

    def frame_at(self, seconds: float) -> Floats:
        """Right, down, forward of the camera. The worm's own time is that of the drive."""
        return self.camera.frame(self.pointing, self.mount, 0.0 if self.guided else self.drive_s(seconds), 0.0)

    def direction(self, seconds: float) -> tuple[float, float]:
        """ICRS right ascension and declination (radians) of the star in the middle of the picture."""
        forward = self.frame_at(seconds)[2]
        astrom = astrometry(self.mount.site, self.moment(seconds))
        azimuth, zenith_distance = np.arctan2(-forward[1], forward[0]), np.arccos(np.clip(forward[2], -1.0, 1.0))
        ra, dec = erfa.aticq(*erfa.atoiq("A", azimuth, zenith_distance, astrom), astrom)
        return float(ra), float(dec)


@dataclass(frozen=True)
class TrueFrame:
    """Electrons, and what is true of the frame: covariance of a star's place within the exposure at the middle (xx, yy, xy in
    px²), the standard deviation of an untrailed star there, where that star stood; share of starlight that came through to where
    it belongs, and how bright the sky was against a dark one, 0 behind a cap; what of all light was counted, and the noise of a
    pixel of sky in the middle, electrons."""

    electrons: NDArray[np.float32]
    motion: Floats
    star_sigma_px: float
    centre_px: tuple[float, float]
    clear: float
    sky: float
    gain: float
    noise_e: float

    @property
    def elongation(self) -> float:
        """Long axis over the untrailed width."""
        xx, yy, xy = self.motion
        most = (xx + yy) / 2.0 + float(np.hypot((xx - yy) / 2.0, xy))
        return float(np.sqrt(1.0 + most / self.star_sigma_px**2))


def _disc(radius: float) -> Floats:
    """Places over a disc, as seeds lie in a sunflower; the outer ones count alike."""
    if radius <= 0.0:
        return np.zeros((1, 2))
    count = 37
    number = np.arange(count) + 0.5
    away, around = radius * np.sqrt(number / count), number * np.pi * (3.0 - np.sqrt(5.0))
    return np.stack([away * np.cos(around), away * np.sin(around)], axis=1)


@dataclass(frozen=True)
class Sky:
    """Stars: ICRS radians and magnitudes in the camera's band."""

    ra: Floats
    dec: Floats
    magnitude: Floats


def _spread(image: NDArray[np.float32], x: Floats, y: Floats, light: Floats, covariance: tuple[Floats, Floats, Floats]) -> None:
    """Add elliptical Gaussian stars, sampled in the middle of pixels; covariance (xx, yy, xy), px², each (n,)."""
    height, width = image.shape
    xx, yy, xy = covariance
    reach = int(np.ceil(3.8 * np.sqrt(max(float(np.max(xx, initial=0.1)), float(np.max(yy, initial=0.1))))))
    column, row = x + (width - 1) / 2, y + (height - 1) / 2
    near = (column > -reach) & (column < width + reach) & (row > -reach) & (row < height + reach)
    column, row, light, xx, yy, xy = (one[near] for one in (column, row, light, xx, yy, xy))
    first_column, first_row = np.rint(column).astype(int), np.rint(row).astype(int)
    offset = np.arange(-reach, reach + 1)
    dx = (offset + (first_column - column)[:, None]).astype(np.float32)[:, None, :]
    dy = (offset + (first_row - row)[:, None]).astype(np.float32)[:, :, None]
    det = xx * yy - xy**2
    a, b, c = ((one / det).astype(np.float32)[:, None, None] for one in (yy / 2, xx / 2, xy))
    stamps = np.exp(c * dx * dy - a * dx**2 - b * dy**2)
    stamps *= (light / (2 * np.pi * np.sqrt(det))).astype(np.float32)[:, None, None]
    # On a sheet with an edge as wide as any star reaches, so that none has to be looked at for what falls off.
    edge = 2 * reach + 1
    wide = width + 2 * edge
    place = ((first_row + edge) * wide + first_column + edge)[:, None, None] + (offset[:, None] * wide + offset)
    sheet = np.bincount(place.ravel(), weights=stamps.ravel(), minlength=(height + 2 * edge) * wide)
    image += sheet.reshape(height + 2 * edge, wide)[edge:-edge, edge:-edge]


def _line(image: NDArray[np.float32], streak: Streak, sigma: float) -> None:
    away = np.hypot(streak.end[0] - streak.start[0], streak.end[1] - streak.start[1])
    along = (np.arange(int(away)) + 0.5) / max(int(away), 1)
    light = np.full(along.size, streak.light_e)
    if streak.dots:
        light *= 2.0 * (np.sin(2 * np.pi * streak.dots * along) > 0.2)
    if streak.spindle:
        light *= 3.0 * np.sin(np.pi * along) ** 2
    x, y = (streak.start[axis] + (streak.end[axis] - streak.start[axis]) * along for axis in (0, 1))
    round_ = np.full(along.size, sigma**2 + PIXEL_VARIANCE)
    _spread(image, x, y, light, (round_, round_, np.zeros(along.size)))


def take(scene: Scene, stars: Sky, number: int, happening: Happening, rng: np.random.Generator) -> TrueFrame:
    """Draw one frame of the run."""
    sensor, lens = scene.camera.sensor, scene.camera.lens
    height, width = sensor.height_px, sensor.width_px
    half = float(np.hypot(width, height)) / 2.0
    sigma = lens.fwhm_px / WIDTH_PER_SIGMA
    tracks = _tracks(scene, stars, number, happening, half)
    own, own_y = tracks.x[:, -1], tracks.y[:, -1]
    motion = np.array([np.var(own), np.var(own_y), np.mean((own - own.mean()) * (own_y - own_y.mean()))])
    image = np.zeros((height, width), dtype=np.float32)
    if not happening.capped:
        _draw_stars(image, scene, happening, tracks, half)
        if happening.streak:
            _line(image, happening.streak, sigma)
        image += _sky_light(scene, happening, half)
    bright = 0.0 if happening.capped else happening.sky
    noise = float(np.sqrt(_sky_electrons(scene, happening) * bright + sensor.read_noise_e**2))
    image += np.sqrt(image + np.float32(sensor.read_noise_e**2)) * rng.standard_normal(image.shape, dtype=np.float32)
    star_sigma = float(np.sqrt(sigma**2 + PIXEL_VARIANCE + happening.blur_px**2 + happening.disc_px**2 / 4.0))
    centre = (float(own.mean()), float(own_y.mean()))
    clear = happening.clear * (1.0 - happening.halo) * _through(happening)
    return TrueFrame(np.maximum(image, 0.0), motion, star_sigma, centre, clear, bright, happening.gain, noise)


def _through(happening: Happening) -> float:
    """Share of starlight that patches of cloud let through in the middle of the picture, the median over it."""
    varies, towards, phase = happening.patches
    across = np.linspace(-0.55, 0.55, 201)
    return float(np.median(np.clip(1.0 + varies * np.sin(2.3 * across + phase), 0.02, 1.5))) if varies or towards else 1.0


@dataclass(frozen=True)
class _Tracks:
    """Where each star goes while the frame is open, (moments, stars), the last being that of the middle; its magnitude, and the
    sine of its altitude."""

    x: Floats
    y: Floats
    magnitude: Floats
    up: Floats
    length: float


def _about(stars: Sky, ra: float, dec: float, within: float) -> Sky:
    """Those of them that stand within so many radians of a direction."""
    cosine = np.sin(dec) * np.sin(stars.dec) + np.cos(dec) * np.cos(stars.dec) * np.cos(stars.ra - ra)
    near = cosine > np.cos(min(within, np.pi))
    return Sky(stars.ra[near], stars.dec[near], stars.magnitude[near])


def _tracks(scene: Scene, stars: Sky, number: int, happening: Happening, half: float) -> _Tracks:
    camera, begins = scene.camera, scene.begins_s(number)
    middle = begins + scene.exposure_s / 2
    own_ra, own_dec = scene.direction(middle)
    wide = float(np.arctan(1.3 * half / camera.focal_px))
    stars = _about(stars, own_ra, own_dec, wide + AIR_AND_YEARS)
    seen, frame = observed(scene.mount.site, scene.moment(middle), stars.ra, stars.dec), scene.frame_at(middle)
    near = seen @ frame[2] > np.cos(wide)
    ra, dec = np.append(stars.ra[near], own_ra), np.append(stars.dec[near], own_dec)

    def places(after_s: float) -> tuple[Floats, Floats]:
        turned = frame if scene.guided else scene.frame_at(begins + after_s)
        at = middle if scene.guided else begins + after_s
        return camera.project(observed(scene.mount.site, scene.moment(at), ra, dec), turned)

    share = np.linspace(0.0, 1.0, 9)
    coarse = np.array([places(scene.exposure_s / 2)] * 9 if scene.guided else [places(one * scene.exposure_s) for one in share])
    length = float(np.sum(np.hypot(*np.diff(coarse[:, :, -1], axis=0).T)))
    wander = happening.path if len(happening.path) > 1 else np.repeat(happening.path, 2, axis=0)
    length += float(np.sum(np.hypot(*np.diff(wander, axis=0).T)))
    length += float(np.radians(abs(happening.turn_deg[1] - happening.turn_deg[0]))) * half * 2.0
    sigma = camera.lens.fwhm_px / WIDTH_PER_SIGMA
    steps = int(np.clip(np.ceil(length / (0.7 * sigma)), 9 if length > 0.2 * sigma else 2, 160))
    fine = (np.arange(steps) + 0.5) / steps
    between = np.stack([np.interp(fine, share, one) for one in np.eye(share.size)], axis=1)  # (moments, coarse ones)
    x, y = (between @ coarse[:, axis, :] for axis in (0, 1))
    turn = np.radians(happening.turn_deg[0] + (happening.turn_deg[1] - happening.turn_deg[0]) * fine)[:, None]
    off_x, off_y = x - happening.about[0], y - happening.about[1]
    told = np.linspace(0.0, 1.0, len(wander))
    x = happening.about[0] + np.cos(turn) * off_x - np.sin(turn) * off_y + np.interp(fine, told, wander[:, 0])[:, None]
    y = happening.about[1] + np.sin(turn) * off_x + np.cos(turn) * off_y + np.interp(fine, told, wander[:, 1])[:, None]
    return _Tracks(x, y, stars.magnitude[near], np.maximum(seen[near, 2], 0.03), length)


def _catch(scene: Scene, happening: Happening) -> float:
    """Electrons of a star of magnitude 0 in the middle of the picture."""
    lens, sensor = scene.camera.lens, scene.camera.sensor
    aperture_cm2 = np.pi / 4 * (lens.focal_mm / 10.0 / lens.f_number) ** 2
    return float(VEGA_PHOTONS * aperture_cm2 * sensor.band_nm * scene.exposure_s * happening.gain)


def _draw_stars(image: NDArray[np.float32], scene: Scene, happening: Happening, tracks: _Tracks, half: float) -> None:
    camera, lens = scene.camera, scene.camera.lens
    height, width = image.shape
    x, y = tracks.x[:, :-1], tracks.y[:, :-1]
    mean_x, mean_y = x.mean(axis=0), y.mean(axis=0)
    reach = FAR + tracks.length
    inside = np.isfinite(mean_x) & (np.abs(mean_x) < width / 2 + reach) & (np.abs(mean_y) < height / 2 + reach)
    x, y, mean_x, mean_y = x[:, inside], y[:, inside], mean_x[inside], mean_y[inside]
    light = _catch(scene, happening) * happening.clear
    light = light * 10 ** (-0.4 * (tracks.magnitude[inside] + camera.extinction_mag / tracks.up[inside]))
    light *= 1.0 - (1.0 - lens.corner_light) * (mean_x**2 + mean_y**2) / half**2
    varies, towards, phase = happening.patches
    if varies:
        across = (mean_x * np.cos(towards) + mean_y * np.sin(towards)) / half
        light *= np.clip(1.0 + varies * np.sin(2.3 * across + phase), 0.02, 1.5)
    light *= mean_y < height / 2 - happening.hidden * height
    shape = _own_shape(scene.glass, lens.fwhm_px / WIDTH_PER_SIGMA, happening, mean_x, mean_y, width, half)
    spots = _disc(happening.disc_px)
    shadows = ((0.0, 0.0, 0.75), (*happening.ghost_px, 0.25)) if any(happening.ghost_px) else ((0.0, 0.0, 1.0),)
    part = (1.0 - happening.halo) / len(x) / len(spots)
    for at_x, at_y in zip(x, y, strict=True):
        for spot_x, spot_y in spots:
            for ghost_x, ghost_y, share in shadows:
                _spread(image, at_x + spot_x + ghost_x, at_y + spot_y + ghost_y, light * share * part, shape)
    if happening.halo:
        wide = np.full(mean_x.size, HALO_SIGMA_PX**2)
        _spread(image, mean_x, mean_y, light * happening.halo, (wide, wide, np.zeros(mean_x.size)))


def _sky_electrons(scene: Scene, happening: Happening) -> float:
    """Of a dark sky in a pixel in the middle."""
    scale = 206.265 * scene.camera.sensor.pitch_um / scene.camera.lens.focal_mm
    return float(_catch(scene, happening) * 10 ** (-0.4 * scene.camera.sky_mag) * scale**2)


def _sky_light(scene: Scene, happening: Happening, half: float) -> NDArray[np.float32]:
    sensor, lens = scene.camera.sensor, scene.camera.lens
    height, width = sensor.height_px, sensor.width_px
    sky = _sky_electrons(scene, happening) * happening.sky
    rows, columns = np.ogrid[0:height, 0:width]
    px, py = columns - (width - 1) / 2, rows - (height - 1) / 2
    fall = 1.0 - (1.0 - lens.corner_light) * (px**2 + py**2) / half**2
    tilted = 1.0 + happening.slope[0] * px / (width / 2) + happening.slope[1] * py / (height / 2)
    dark = np.where(py > height / 2 - happening.hidden * height, 0.25, 1.0) if happening.hidden else 1.0
    return np.asarray(sky * fall * tilted * dark, dtype=np.float32)


def _own_shape(
    glass: Glass, sigma: float, happening: Happening, x: Floats, y: Floats, width: int, half: float
) -> tuple[Floats, Floats, Floats]:
    """Covariance of untrailed stars at their places."""
    plain = sigma**2 + PIXEL_VARIANCE + happening.blur_px**2
    soft = np.radians(glass.soft_towards_deg)
    across = np.clip((x * np.cos(soft) + y * np.sin(soft)) / (width / 2), -1.0, 1.0)
    plain = plain + (glass.soft_px * (across + 1.0) / 2.0) ** 2
    along = (glass.coma_px * (x**2 + y**2) / half**2) ** 2
    away = np.maximum(np.hypot(x, y), 1e-6)
    ux, uy = x / away, y / away
    one = np.radians(glass.astigmatism_deg)
    extra = glass.astigmatism_px**2
    return (
        np.asarray(plain + along * ux**2 + extra * np.cos(one) ** 2),
        np.asarray(plain + along * uy**2 + extra * np.sin(one) ** 2),
        np.asarray(along * ux * uy + extra * np.cos(one) * np.sin(one)),
    )
