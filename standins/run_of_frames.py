"""A whole run by the stand-in camera: sixty frames in which a worm turns, somebody stumbles, a cloud passes and dew falls.

It writes them into a folder as a camera does on its card, all at once or one by one as they are exposed.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from widedusk.core.catalogue.stars import stars, v_magnitude
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Pointing, Sensor, as_jpeg
from widedusk.core.simulate.mount import Mount, Site
from widedusk.core.simulate.series import Happening, Scene, Sky, take
from widedusk.core.simulate.spoiled import streak_of

FAINTEST = 9.9
CLIP_E = 700_000.0  # of a pixel of 14.7 µm
WIDTH_MM = 23.5
DEW_OVER = 18  # frames until the glass is wet through


@dataclass(frozen=True)
class Night:
    """Where and when the run is shot, and in which frames what goes wrong. start: UTC of the first frame; looks: altitude and
    azimuth of the middle, then."""

    site: Site
    start: datetime
    looks: tuple[float, float]
    exposure_s: float = 120.0
    gap_s: float = 2.0
    focal_mm: float = 180.0
    half_amplitude_arcsec: float = 46.0
    period_s: float = 430.0
    sides: tuple[int, int] = (1600, 1070)
    knock_at: int = 12
    cloud: tuple[int, int] = (20, 27)
    satellite_at: int = 33
    dew_from: int = 40
    seed: int = 7


def sky() -> Sky:
    """Stars as the list has them, in V."""
    known = stars()
    bright = known.magnitude < FAINTEST
    v = v_magnitude(known.magnitude[bright], known.colour[bright])
    ra = np.arctan2(known.vectors[bright, 1], known.vectors[bright, 0])
    return Sky(ra, np.arcsin(known.vectors[bright, 2]), np.where(np.isfinite(v), v, known.magnitude[bright]))


def scene_of(night: Night) -> Scene:
    sensor = Sensor(*night.sides, WIDTH_MM * 1000 / night.sides[0], 7.0)
    camera = Camera(sensor, Lens(night.focal_mm, 4.0, fwhm_px=2.5, corner_light=0.7), 21.3, extinction_mag=0.18)
    mount = Mount(night.site, 1.5, 1.0, night.half_amplitude_arcsec, night.period_s, 0.6)
    return Scene(camera, mount, Pointing(*night.looks, 12.0), night.start, night.exposure_s, night.gap_s)


def happenings(night: Night, count: int) -> list[Happening]:
    """What goes wrong, frame by frame."""
    rng = np.random.default_rng(night.seed)
    scene, found, jump = scene_of(night), [], np.array([14.0, -9.0])
    for number in range(count):
        one = Happening(path=rng.normal(0, 0.05, 2)[None, :])
        if number == night.knock_at:
            one = replace(one, path=np.where((np.arange(40) > 22)[:, None], jump, 0.0))
        elif number > night.knock_at:
            one = replace(one, path=one.path + jump)
        first, last = night.cloud
        if first <= number <= last:
            thick = 0.8 * float(np.sin(np.pi * (number - first + 0.5) / (last - first + 1)))
            one = replace(one, clear=1 - thick, patches=(0.5 * thick, 0.7, 0.8 * number), sky=1 + 0.2 * thick)
        if number >= night.dew_from:
            wet = min((number - night.dew_from + 1) / DEW_OVER, 1.0)
            one = replace(one, clear=1 - 0.55 * wet, blur_px=1.9 * wet, halo=0.4 * wet, sky=1 + 0.1 * wet)
        if number == night.satellite_at:
            one = replace(one, streak=streak_of(rng, "satellite", scene))
        found.append(one)
    return found


def shoot(folder: Path, night: Night, numbers: range, utc_offset_min: int = 0) -> Iterator[Path]:
    """Write frames of the run into a folder, one after the other; each comes back once it lies there whole."""
    scene, every, seen = scene_of(night), happenings(night, numbers.stop), sky()
    zone = timezone(timedelta(minutes=utc_offset_min))
    sign, minutes = ("-" if utc_offset_min < 0 else "+"), abs(utc_offset_min)
    for number in numbers:
        frame = take(scene, seen, number, every[number], np.random.default_rng([night.seed, number]))
        began = scene.moment(scene.begins_s(number)).astimezone(zone)
        offset = f"{sign}{minutes // 60:02d}:{minutes % 60:02d}"
        header = CardHeader(began, night.exposure_s, night.focal_mm, offset, 800)
        path = folder / f"RUN_{number + 1:04d}.JPG"
        partial = path.with_suffix(".part")
        partial.write_bytes(as_jpeg(frame.electrons, CLIP_E * (1600 / night.sides[0]) ** 2, header))
        partial.replace(path)
        yield path
