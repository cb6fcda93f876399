"""A camera that does not exist: stars through a lens, on a sensor, in a file.

Pixels count from the middle of the picture, x to the right, y down, as one sees it. The lens is a pinhole whose radius is
stretched by 1 + distortion (r / r_corner)²; a star is a round Gaussian, smeared along where the mount carries it.
"""

from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from io import BytesIO
from typing import Any

import erfa
import numpy as np
from astropy.io import fits
from numpy.typing import NDArray
from PIL import Image
from PIL.TiffImagePlugin import IFDRational
from scipy.special import erf

from widedusk.core.simulate.mount import Floats, Mount, Site, from_compass

VEGA_PHOTONS = 1.0e4  # a second, cm² and nm at magnitude 0 (Bessell 1979)


@dataclass(frozen=True)
class Sensor:
    width_px: int
    height_px: int
    pitch_um: float
    read_noise_e: float = 3.0
    full_well_e: float = 40_000.0
    band_nm: float = 120.0  # optics, filters and quantum efficiency over all three colours


@dataclass(frozen=True)
class Lens:
    focal_mm: float
    f_number: float = 2.8
    distortion: float = 0.0  # at the corner, as a share of the radius
    fwhm_px: float = 2.5
    corner_light: float = 0.6  # of the middle's
    off_um: tuple[float, float] = (0.0, 0.0)  # where the optical axis meets the sensor, from its middle: right, down


@dataclass(frozen=True)
class Pointing:
    """Where the camera looks when the mount starts, and how it is turned about its line of sight (clockwise, as one sees it)."""

    altitude_deg: float
    azimuth_deg: float
    roll_deg: float = 0.0


@dataclass(frozen=True)
class Shot:
    """One press of the button: start in UTC, `seconds` after the mount was started, the RA axis turned by hand before it."""

    start: datetime
    exposure_s: float
    seconds: float
    by_hand_deg: float = 0.0


@dataclass(frozen=True)
class Rendered:
    """Electrons per pixel, and where the stars stood, pixels from the middle, at the middle of the exposure."""

    electrons: NDArray[np.float32]
    x: Floats
    y: Floats
    magnitude: Floats


@dataclass(frozen=True)
class Camera:
    sensor: Sensor
    lens: Lens
    sky_mag: float = 21.5
    mirrored: bool = False
    extinction_mag: float = 0.0  # by which one thickness of air dims a star
    rng: np.random.Generator = field(default_factory=lambda: np.random.default_rng(1))

    @property
    def focal_px(self) -> float:
        return self.lens.focal_mm * 1000.0 / self.sensor.pitch_um

    @property
    def corner_px(self) -> float:
        return float(np.hypot(self.sensor.width_px, self.sensor.height_px) / 2.0)

    def frame(self, pointing: Pointing, mount: Mount, seconds: float, by_hand_deg: float) -> Floats:
        """Right, down and forward of the camera as three rows, north-west-up."""
        forward = from_compass(np.radians(pointing.altitude_deg), np.radians(pointing.azimuth_deg))
        above = from_compass(np.radians(pointing.altitude_deg + 90.0), np.radians(pointing.azimuth_deg))
        right = np.cross(forward, above)
        roll = np.radians(pointing.roll_deg)
        rolled_right = np.cos(roll) * right - np.sin(roll) * above
        rolled_down = -np.sin(roll) * right - np.cos(roll) * above
        return mount.carried(np.stack([rolled_right, rolled_down, forward]), seconds, np.radians(by_hand_deg))

    def project(self, directions: Floats, frame: Floats) -> tuple[Floats, Floats]:
        """Pixels of directions in front of the camera; those behind it become infinite."""
        right, down, forward = (directions @ axis for axis in frame)
        with np.errstate(divide="ignore", invalid="ignore"):
            x, y = (np.where(forward > 0.05, self.focal_px * one / forward, np.inf) for one in (right, down))
            radius = np.hypot(x, y) / self.corner_px
            # Far outside the picture the cubic would fold back into it.
            stretch = np.where(radius < 2.0, 1.0 + self.lens.distortion * radius**2, np.inf)
            right_px, down_px = (one / self.sensor.pitch_um for one in self.lens.off_um)
            return (-1.0 if self.mirrored else 1.0) * (x * stretch + right_px), y * stretch + down_px

    def take(
        self, ra: Floats, dec: Floats, magnitude: Floats, pointing: Pointing, mount: Mount, shot: Shot, steps: int = 5
    ) -> Rendered:
        """Electrons of one exposure of ICRS stars (radians), each smeared over `steps` moments of it."""
        sensor = self.sensor
        moments = (np.arange(steps) + 0.5) / steps * shot.exposure_s
        tracks = [self._places(ra, dec, pointing, mount, shot, float(moment)) for moment in moments]
        middle = self._places(ra, dec, pointing, mount, shot, shot.exposure_s / 2)
        seen = (np.abs(middle[0]) < sensor.width_px / 2 + 20) & (np.abs(middle[1]) < sensor.height_px / 2 + 20)
        aperture_cm2 = np.pi / 4 * (self.lens.focal_mm / 10.0 / self.lens.f_number) ** 2
        light = VEGA_PHOTONS * 10 ** (-0.4 * magnitude[seen]) * aperture_cm2 * sensor.band_nm * shot.exposure_s
        light = light * self._vignette(middle[0][seen], middle[1][seen])
        if self.extinction_mag:
            up = observed(mount.site, shot.start + timedelta(seconds=shot.exposure_s / 2), ra[seen], dec[seen])[:, 2]
            light = light * 10 ** (-0.4 * self.extinction_mag / np.maximum(up, 0.1))
        image = np.zeros((sensor.height_px, sensor.width_px), dtype=np.float32)
        for x, y in tracks:
            _stamp(image, x[seen], y[seen], light / steps, self.lens.fwhm_px / 2.3548)
        scale_arcsec = 206.265 * sensor.pitch_um / self.lens.focal_mm
        sky = VEGA_PHOTONS * 10 ** (-0.4 * self.sky_mag) * scale_arcsec**2 * aperture_cm2 * sensor.band_nm * shot.exposure_s
        rows, columns = np.ogrid[0 : sensor.height_px, 0 : sensor.width_px]
        x, y = columns - (sensor.width_px - 1) / 2, rows - (sensor.height_px - 1) / 2
        image += (sky * self._vignette(x, y)).astype(np.float32)
        noise = np.sqrt(image + np.float32(sensor.read_noise_e**2))
        image += noise * self.rng.standard_normal(image.shape, dtype=np.float32)
        return Rendered(np.clip(image, 0, sensor.full_well_e), middle[0][seen], middle[1][seen], magnitude[seen])

    def _places(
        self, ra: Floats, dec: Floats, pointing: Pointing, mount: Mount, shot: Shot, after_s: float
    ) -> tuple[Floats, Floats]:
        seen = observed(mount.site, shot.start + timedelta(seconds=after_s), ra, dec)
        return self.project(seen, self.frame(pointing, mount, shot.seconds + after_s, shot.by_hand_deg))

    def _vignette(self, x: Floats, y: Floats) -> Floats:
        return np.asarray(1.0 - (1.0 - self.lens.corner_light) * (x**2 + y**2) / self.corner_px**2)


def astrometry(site: Site, moment: datetime) -> Any:
    """ERFA's own account of an observer at a moment. Source: ERFA apco13."""
    day = (moment.replace(tzinfo=None) - datetime(2000, 1, 1, 12)).total_seconds() / 86400.0
    astrom, _ = erfa.apco13(
        2451545.0, day, 0.0, np.radians(site.longitude_deg), np.radians(site.latitude_deg), site.height_m, 0.0, 0.0,
        site.pressure_hpa, site.temperature_c, site.humidity, 0.55,
    )  # fmt: skip
    return astrom


def observed(site: Site, moment: datetime, ra: Floats, dec: Floats) -> Floats:
    """North-west-up directions in which ICRS stars are seen through the air. Source: ERFA apco13, atciq, atioq."""
    astrom = astrometry(site, moment)
    apparent_ra, apparent_dec = erfa.atciq(ra, dec, 0.0, 0.0, 0.0, 0.0, astrom)
    azimuth, zenith_distance, *_ = erfa.atioq(apparent_ra, apparent_dec, astrom)
    return from_compass(np.pi / 2 - zenith_distance, azimuth)


def _stamp(image: NDArray[np.float32], x: Floats, y: Floats, light: Floats, sigma: float) -> None:
    """Add Gaussian stars, integrated over each pixel; those off the picture fall off its edge."""
    height, width = image.shape
    column, row = x + (width - 1) / 2, y + (height - 1) / 2
    reach = int(np.ceil(5 * sigma)) + 1
    offset = np.arange(-reach, reach + 1)
    first_column, first_row = np.rint(column).astype(int), np.rint(row).astype(int)

    def share(centre: Floats) -> Floats:
        edges = (np.arange(-reach, reach + 2) - 0.5 - centre[:, None]) / (sigma * np.sqrt(2.0))
        return np.asarray(np.diff(erf(edges), axis=1) / 2.0)

    stamps = light[:, None, None] * share(row - first_row)[:, :, None] * share(column - first_column)[:, None, :]
    rows = (first_row[:, None, None] + offset[None, :, None]) + np.zeros_like(stamps, dtype=int)
    columns = (first_column[:, None, None] + offset[None, None, :]) + np.zeros_like(stamps, dtype=int)
    inside = (rows >= 0) & (rows < height) & (columns >= 0) & (columns < width)
    np.add.at(image, (rows[inside], columns[inside]), stamps[inside].astype(np.float32))


def as_jpeg(electrons: NDArray[np.float32], clip_e: float, header: "CardHeader", quality: int = 92) -> bytes:
    """An 8-bit picture through the usual tone curve, with EXIF as cameras write it; of one plane, or (rows, columns, 3)."""
    linear = np.clip(electrons / clip_e, 0.0, 1.0)
    tone = np.where(linear < 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
    drawn = Image.fromarray((tone * 255 + 0.5).astype(np.uint8))
    exif = Image.Exif()
    inside = exif.get_ifd(0x8769)
    inside[0x9003] = header.local_start.strftime("%Y:%m:%d %H:%M:%S")
    if header.utc_offset:
        inside[0x9011] = header.utc_offset
    inside[0x829A] = IFDRational(round(header.exposure_s * 1000), 1000)
    if header.focal_mm:
        inside[0x920A] = IFDRational(round(header.focal_mm * 10), 10)
    inside[0x8827] = header.iso
    if header.f_number:
        inside[0x829D] = IFDRational(round(header.f_number * 10), 10)
    exif[0x0132] = inside[0x9003]
    out = BytesIO()
    drawn.convert("RGB").save(out, "JPEG", quality=quality, exif=exif)
    return out.getvalue()


def as_fits(electrons: NDArray[np.float32], clip_e: float, header: "CardHeader") -> bytes:
    """A 16-bit picture in proportion to the light, rows from the bottom as FITS has them, the start in UTC.

    electrons: one plane, a mosaic of an even number of rows, or (rows, columns, 3).
    """
    counts = (np.clip(electrons / clip_e, 0.0, 1.0) * 65535 + 0.5).astype(np.uint16)
    laid = np.moveaxis(counts, -1, 0)[:, ::-1] if counts.ndim == 3 else counts[::-1]
    unit = fits.PrimaryHDU(np.ascontiguousarray(laid))  # else it is written value by value
    unit.header["DATE-OBS"] = header.local_start.isoformat()
    unit.header["EXPTIME"] = header.exposure_s
    if header.focal_mm:
        unit.header["FOCALLEN"] = header.focal_mm
    if header.f_number:
        unit.header["FNUMBER"] = header.f_number
    if header.mosaic:
        unit.header["BAYERPAT"] = header.mosaic[2:] + header.mosaic[:2]  # for the rows as they lie in the file
    out = BytesIO()
    unit.writeto(out)
    return out.getvalue()


@dataclass(frozen=True)
class CardHeader:
    """What the camera writes beside the picture: its own clock, which may be wrong."""

    local_start: datetime
    exposure_s: float
    focal_mm: float | None
    utc_offset: str = "+00:00"
    iso: int = 1600
    f_number: float | None = None
    mosaic: str = ""  # colours of the upper left two by two pixels, row by row


def aimed(camera: Camera, **changes: Any) -> Camera:
    """The same camera with another lens setting."""
    return replace(camera, lens=replace(camera.lens, **changes))
