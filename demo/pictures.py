"""What the demo's camera took last night: three pairs, between which the screws were turned, one look towards the target, a test
picture under a hazier sky than planned, flats and bias frames of the next morning, and
stars at three stops of the lens."""

import json
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from demo.scenario import CROP_BODY, LONG_LENS, PLACES, TARGETS
from standins.camera import Press, take
from standins.run_of_frames import Night, shoot
from widedusk.core.scene import Target
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Pointing, Sensor, as_fits, observed
from widedusk.core.simulate.lens import InventedLens, mosaic, picture
from widedusk.core.simulate.lens import Shot as LensShot
from widedusk.core.simulate.mount import Mount, Site
from widedusk.core.simulate.readout import Readout
from widedusk.core.sky.time import datetime_from_mjd, solar_midnight

PLACE = PLACES[0]
SITE = Site(PLACE.latitude_deg, PLACE.longitude_deg, PLACE.height_m, 852.0, 14.0)
UTC_OFFSET_MIN = 120
SMALL = 2  # the camera is set to pictures of half its width
SIDES = [round(side_mm * 1000 / CROP_BODY.pitch_um / SMALL) for side_mm in (CROP_BODY.width_mm, CROP_BODY.height_mm)]
SENSOR = Sensor(SIDES[0], SIDES[1], SMALL * CROP_BODY.pitch_um)
LENS = Lens(LONG_LENS.focal_mm, LONG_LENS.f_best, 0.0015, 1.6)
AXES = ((1, -38.0, 52.0), (2, -5.0, 6.5), (3, 0.6, -0.5))  # pair, high and east of the pole in arcminutes
TURN_DEG = 55.0
TEST_ISO = 800
LENS_STOPS = (LONG_LENS.f_widest, round(LONG_LENS.f_widest * 2**0.5, 1), round(LONG_LENS.f_widest * 2.0, 1))
READOUT = Readout(720, 480, 0.41, 2.1, iso=800, name="Demo body")
LOOK = Pointing(52.0, 95.0, 20.0)


def last_night(now: datetime) -> datetime:
    """An hour before the last solar midnight that has passed, whole seconds."""
    moment = datetime_from_mjd(solar_midnight((now - timedelta(days=1)).date(), np.radians(PLACE.longitude_deg)))
    return (moment - timedelta(hours=1)).replace(microsecond=0)


FRAMES = "frames-of-last-night"
FRAME_COUNT = 24
MARK = "last-night.json"  # which night the pictures are of; written when the set is whole


def _stands(target: Target, moment: datetime) -> tuple[float, float]:
    """Altitude and azimuth of a target, degrees."""
    seen = observed(SITE, moment, np.radians([target.ra_deg]), np.radians([target.dec_deg]))[0]
    return float(np.degrees(np.arcsin(seen[2]))), float(np.degrees(np.arctan2(-seen[1], seen[0])) % 360.0)


@dataclass(frozen=True)
class LastNight:
    """What the demo's camera was at. begin: an hour before midnight; target: of the run of frames, the highest at that time."""

    begin: datetime
    target: int

    @property
    def frames_begin(self) -> datetime:
        return self.begin + timedelta(minutes=80)

    @staticmethod
    def of(now: datetime) -> "LastNight":
        begin = last_night(now)
        altitudes = [_stands(one, begin + timedelta(minutes=80))[0] for one in TARGETS]
        return LastNight(begin, int(np.argmax(altitudes)))

    @staticmethod
    def read(folder: Path) -> "LastNight":
        """As the pictures that are there were taken."""
        told = json.loads((folder / MARK).read_text())
        return LastNight(datetime.fromisoformat(told["begin"]), int(told["target"]))

    def write(self, folder: Path) -> None:
        (folder / MARK).write_text(json.dumps({"begin": self.begin.isoformat(), "target": self.target}))


def _frames(folder: Path, night: LastNight) -> int:
    """A whole run of one of the demo's targets: a worm that turns, a satellite, somebody who stumbles, a cloud, dew at the end."""
    begin, target = night.frames_begin, TARGETS[night.target]
    happens = {"satellite_at": 3, "knock_at": 6, "dew_from": 16}
    run = Night(SITE, begin, _stands(target, begin), sides=(1200, 802), cloud=(9, 12), **happens)
    (folder / FRAMES).mkdir(exist_ok=True)
    return sum(1 for _ in shoot(folder / FRAMES, run, range(FRAME_COUNT), UTC_OFFSET_MIN))


def take_pictures(folder: Path, now: datetime) -> int:
    """Write the demo's pictures, 34 MB in all; returns how many."""
    folder.mkdir(parents=True, exist_ok=True)
    night = LastNight.of(now)
    begin, presses = night.begin, 0
    for pair, high, east in AXES:
        camera = Camera(SENSOR, LENS, PLACE.sky_mag, rng=np.random.default_rng(pair))
        mount = Mount(SITE, high, east, 11.0, 430.0)
        start = begin + timedelta(minutes=12 * pair)
        for word, seconds, turned in (("first", 0.0, 0.0), ("second", 90.0, TURN_DEG)):
            press = Press(f"pair-{pair}-{word}.jpg", start + timedelta(seconds=seconds), seconds, turned)
            take(folder, camera, mount, LOOK, press, UTC_OFFSET_MIN, 12_000.0)
            presses += 1
    green = replace(SENSOR, band_nm=CROP_BODY.response_nm)
    hazy = Camera(green, replace(LENS, fwhm_px=1.4), PLACE.sky_mag - 1.0, extinction_mag=0.2, rng=np.random.default_rng(10))
    press = Press("test-picture.jpg", begin + timedelta(minutes=70), exposure_s=15.0, iso=TEST_ISO)
    _at_the_target(folder, hazy, press, (0.0, 0.0), CROP_BODY.step(TEST_ISO).full_well_e * SMALL**2)
    presses += 1 + _for_the_camera(folder) + _of_the_lens(folder) + _frames(folder, night)
    looking = Camera(SENSOR, LENS, PLACE.sky_mag, rng=np.random.default_rng(9))
    press = Press("look-towards-vela.jpg", begin + timedelta(minutes=60), exposure_s=15.0)
    _at_the_target(folder, looking, press, (-2.4, 1.1), 12_000.0)
    night.write(folder)
    return presses + 1


def _at_the_target(folder: Path, camera: Camera, press: Press, off_deg: tuple[float, float], clip_e: float) -> None:
    """One picture of the demo's large nebula, or of the sky some degrees beside it."""
    target = TARGETS[1]
    beside = replace(target, ra_deg=target.ra_deg + off_deg[0], dec_deg=target.dec_deg + off_deg[1])
    look = Pointing(*_stands(beside, press.start), 33.0)
    take(folder, camera, Mount(SITE, 0.6, -0.5, 11.0, 430.0), look, press, UTC_OFFSET_MIN, clip_e)


def _of_the_lens(folder: Path) -> int:
    """The lens at three stops, each as bright as the one before: soft corners, violet rims and dark corners wide open."""
    lens = InventedLens(
        LONG_LENS.f_widest, 1.9, coma_px=1.7, curved_px=1.2, focus_px=(1.0, 0.0, 2.2), larger=(0.7, -0.9), fall=0.45, blades=9
    )
    for place, stop in enumerate(LENS_STOPS):
        shot = LensShot(stop, 1920, 1280, 1100, exposed=stop / LENS_STOPS[0])
        drawn = mosaic(picture(lens, shot, np.random.default_rng(20 + place)))
        header = CardHeader(datetime(2026, 1, 1), 5.0 * 2.0**place, LONG_LENS.focal_mm, f_number=stop, mosaic="RGGB")
        (folder / f"lens-at-f{stop:g}.fits").write_bytes(as_fits(drawn, 60_000.0, header))
    return len(LENS_STOPS)


def _for_the_camera(folder: Path) -> int:
    """Two flats and two bias frames at ISO 800, a little noisier than the camera's table says."""
    rng = np.random.default_rng(11)
    frames = (*READOUT.flats(3_000.0, rng), READOUT.bias(rng), READOUT.bias(rng))
    for name, counts, seconds in zip(("flat-1", "flat-2", "bias-1", "bias-2"), frames, (0.4, 0.4, 0.00025, 0.00025), strict=True):
        (folder / f"iso-800-{name}.fits").write_bytes(READOUT.as_fits(counts, seconds))
    return len(frames)


def are_fresh(folder: Path, now: datetime) -> bool:
    """Whether last night's pictures lie there already."""
    mark = folder / MARK
    return mark.is_file() and now.timestamp() - mark.stat().st_mtime < timedelta(days=3).total_seconds()
