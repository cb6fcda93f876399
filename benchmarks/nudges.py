"""Test pictures lead to the frame: 300 invented rigs at 24 to 400 mm in both hemispheres, moved by an unsteady hand.

    python -m benchmarks.nudges [count] [--files]

Stars are found with noise and recognised by the real machinery; with --files each picture is rendered, written as a JPEG and
measured from there, some 20 minutes for all. The hand turns each axis up to 5 % too far or too short, about an axis up to 10′ off
the pole; rig and sky are the invented ones, which share no line with what tells the nudge.
"""

import argparse
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from tests.invented import SMALL, Pair, detected, patterns, write_picture
from tests.invented import any_pair as any_rig
from widedusk.core.errors import InvalidInput
from widedusk.core.frames.measure import measure
from widedusk.core.frames.pointing import pointing
from widedusk.core.frames.solve import identify
from widedusk.core.framing.frame import Frame, from_picture, ra_dec_deg
from widedusk.core.framing.nudge import Nudge, looks_at, nudge
from widedusk.core.simulate.camera import Pointing, observed
from widedusk.core.simulate.mount import from_compass, turned
from widedusk.core.sky.time import Floats, mjd_from_datetime

FOCALS = [24.0, 50.0, 85.0, 135.0, 200.0, 400.0]
PICTURES = 3


def _another(here: Frame, rig: Pair, rng: np.random.Generator) -> Frame:
    """A framing up to 25° from where a rig looks, well above the ground."""
    while True:
        off, way = np.radians(rng.uniform(1, 25)), rng.uniform(0, 2 * np.pi)
        aim = from_picture(here, np.tan(off) * np.cos(way), np.tan(off) * np.sin(way))
        ra, dec = (float(one) for one in ra_dec_deg(aim))
        if observed(rig.site, rig.start, np.radians([ra]), np.radians([dec]))[0, 2] > 0.34:
            return Frame(ra, dec, float(rng.uniform(0, 180)), here.width_deg, here.height_deg)


def _moved(rig: Pair, move: Nudge, rng: np.random.Generator) -> Pair:
    """The same rig after a hand made the nudge, each motion up to 5 % off; about its own axis, which is not the pole."""
    west, north, turn = rng.uniform(0.95, 1.05, 3) * np.radians([move.west_min / 4, move.north_deg, move.turn_deg])
    rows = rig.mount.carried(rig.camera.frame(rig.pointing, rig.mount, 0.0, 0.0), 0.0, west)
    pole = rig.mount.axis * (-1.0 if rig.site.south else 1.0)
    across = np.cross(rows[2], pole)
    rows = turned(rows, across / np.linalg.norm(across), north)
    right, _, ahead = turned(rows, rows[2], -turn)
    altitude, azimuth = np.arcsin(ahead[2]), np.arctan2(-ahead[1], ahead[0])
    level = np.cross(ahead, from_compass(altitude + np.pi / 2, azimuth))
    roll = np.arctan2(-(right @ from_compass(altitude + np.pi / 2, azimuth)), right @ level)
    return replace(rig, pointing=Pointing(*np.degrees([altitude, azimuth, roll])))


def _told(rig: Pair, rng: np.random.Generator, folder: Path | None) -> tuple[Frame, float] | None:
    """Where its picture looks, as it is told; none where it is not recognised. folder: where pictures are written."""
    shot, sensor, binning = rig.shots[0], rig.camera.sensor, 1
    wide, high = sensor.width_px, sensor.height_px
    if folder is None:
        matched = identify(patterns(), detected(rig, shot, rng), rig.camera.focal_px)
    else:
        matched = None
        with suppress(InvalidInput):
            path = write_picture(folder / "picture.jpg", rig, shot)
            read = measure(path, patterns(), wide * sensor.pitch_um / 1000, rig.camera.lens.focal_mm, lambda *_: None)
            matched, binning, wide, high = read.matched, read.binning, read.found.width_px, read.found.height_px
    if matched is None:
        return None
    mjd = mjd_from_datetime(rig.middle(shot))
    told = pointing(matched, wide, high, binning)
    return looks_at(told), mjd


def nudged(count: int, rng: np.random.Generator, folder: Path | None = None) -> tuple[Floats, Floats]:
    """For each rig whose pictures were recognised: what is left after the first nudge, as a share of it, and after the second,
    in frames."""
    first, second = [], []
    for number in range(count):
        rig, wanted, trail = any_rig(rng, FOCALS[number % len(FOCALS)], 10.0), None, []
        if folder is not None:  # a quarter of the pixels for the same field
            rig = replace(rig, camera=replace(rig.camera, sensor=SMALL))
        for _ in range(PICTURES):
            told = _told(rig, rng, folder)
            if told is None:
                break
            here, mjd = told
            wanted = wanted or _another(here, rig, rng)
            trail.append(nudge(here, wanted, mjd))
            rig = _moved(rig, trail[-1], rng)
        if len(trail) == PICTURES:
            first.append(trail[1].apart_deg / trail[0].apart_deg)
            second.append(trail[2].off_frames)
    return np.array(first), np.array(second)


def main() -> None:
    asked = argparse.ArgumentParser()
    asked.add_argument("count", type=int, nargs="?", default=300)
    asked.add_argument("--files", action="store_true")
    given = asked.parse_args()
    with TemporaryDirectory() as folder:
        first, second = nudged(given.count, np.random.default_rng(2026), Path(folder) if given.files else None)
    print(f"{first.size} of {given.count} recognised three times")
    print(f"within 6 % of the move after the first nudge: {np.mean(first <= 0.06):.1%}")
    print(f"within a twentieth of the frame after the second: {np.mean(second <= 0.05):.1%}")


if __name__ == "__main__":
    main()
