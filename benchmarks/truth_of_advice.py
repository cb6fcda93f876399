"""Does the night go as advised? python -m benchmarks.truth_of_advice [--rigs 30] [--frames 40]

Random rigs, skies, places and targets, each with an axis error that has been measured. What the page advises is taken with
the camera of core/simulate, which shares no line with the advice: one frame for each of many phases of the worm. Background,
elongation of the stars and the share of frames within the limit are read from the rendered pixels and held against what was
predicted.
"""

import argparse
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.kit.parts import Camera as Body
from widedusk.core.kit.parts import IsoStep, Rig, Tracker
from widedusk.core.kit.parts import Lens as Glass
from widedusk.core.plan.outlook import Outlook, outlook
from widedusk.core.pole.axis import AxisError
from widedusk.core.scene import Spot, Target
from widedusk.core.simulate.camera import Camera, Lens, Pointing, Sensor, Shot, observed
from widedusk.core.simulate.mount import Mount, Site
from widedusk.core.sky.horizon import pressure_at
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.tracking.keep_rate import elongations

NIGHT = date(2026, 12, 8)
CROP_PX = (440, 440)
STARS = 12
STEPS = 41
AGREES = 0.15


@dataclass(frozen=True)
class Case:
    seen: Outlook
    spot: Spot
    error: AxisError


def any_case(rng: np.random.Generator) -> Case:
    """A rig, place, target and measured axis for which there is a window."""
    while True:
        noise = rng.uniform(1.2, 4.5)
        steps = tuple(
            IsoStep(400 * 2**k, float(noise * (1 + 1.2 * 2.0**-k)), float(rng.uniform(28e3, 60e3) / 2**k)) for k in range(4)
        )
        pitch = float(rng.uniform(3.4, 6.6))
        body = Body("body", 500, 36, 24, pitch, 30, float(rng.uniform(25, 60)), float(rng.uniform(0, 0.05)), steps)
        glass = Glass(
            "lens", 500, float(np.exp(rng.uniform(np.log(24), np.log(300)))), 1.4, float(rng.choice([2.0, 2.8, 4.0, 5.6]))
        )
        amplitude, period = float(rng.uniform(6, 30)), float(rng.uniform(300, 700))
        tracker = Tracker("tracker", 1000, 6000, False, amplitude, period)
        rig = Rig("rig", body, glass, tracker, "bracket", float(rng.uniform(2.0, 3.5)))
        latitude = float(rng.choice([-1, 1]) * rng.uniform(10, 55))
        spot = Spot(
            "spot", latitude, float(rng.uniform(-180, 180)), float(rng.uniform(0, 2500)), "UTC", float(rng.uniform(19.5, 21.9))
        )
        target = Target("target", float(rng.uniform(0, 360)), float(rng.uniform(-60, 60)), 2.0, float(rng.uniform(20, 23)))
        off, way = rng.uniform(0.5, 20), rng.uniform(0, 2 * np.pi)
        error = AxisError(float(off * np.cos(way)), float(off * np.sin(way)), 0.1, 0.1)
        limit = float(rng.choice([1.15, 1.3, 1.5]))
        # Half of them by the school that goes as far as the tracker lets it, where many frames are lost.
        school, keep = ("best", 90) if rng.uniform() < 0.5 else ("tracks", 55)
        choices = Choices(min_altitude_deg=35, elongation_limit=limit, moon_limit_mag=3, sub_school=school, keep_percent=keep)
        seen = outlook(rig, spot, NIGHT, target, choices, error)
        if seen.run is not None and seen.card.frames:
            return Case(seen, spot, error)


def long_axis_px(plane: np.ndarray, x: np.ndarray, y: np.ndarray, reach_px: float) -> float:
    """Long axis (2.355 sigma) of the mean of all stars, by plain second moments: what the limit is defined by."""
    half = int(np.ceil(reach_px))
    columns, rows = x + (plane.shape[1] - 1) / 2, y + (plane.shape[0] - 1) / 2
    offset = np.arange(-half, half + 1)
    tensors = []
    for column, row in zip(columns, rows, strict=True):
        i, j = round(row), round(column)
        cut = plane[i - half : i + half + 1, j - half : j + half + 1].astype(float)
        dx, dy = np.meshgrid(offset + j - column, offset + i - row)
        inside = cut * (dx**2 + dy**2 < reach_px**2)
        mx, my = (inside * dx).sum() / inside.sum(), (inside * dy).sum() / inside.sum()
        products = (dx - mx) ** 2, (dx - mx) * (dy - my), (dy - my) ** 2
        tensors.append([(inside * one).sum() / inside.sum() for one in products])
    xx, xy, yy = np.mean(tensors, axis=0)
    return float(2.3548 * np.sqrt((xx + yy) / 2 + np.hypot((xx - yy) / 2, xy)))


def taken(case: Case, rng: np.random.Generator, frames: int) -> tuple[float, np.ndarray]:
    """Background in electrons, and each frame's long axis over the width of a still star."""
    seen, subject, spot = case.seen, case.seen.subject, case.spot
    rig, t = subject.rig, seen.advice.exposure_s
    site = Site(spot.latitude_deg, spot.longitude_deg, spot.height_m, pressure_at(spot.height_m), 10.0)
    first, last = (datetime_from_mjd(float(seen.night.mjd[minute])) for minute in seen.run)
    ra0, dec0 = np.radians(subject.target.ra_deg), np.radians(subject.target.dec_deg)
    # What the rig calls the width of a star has the pixel's own in it.
    optical = float(np.sqrt(rig.star_fwhm_px**2 - 2.3548**2 / 12))
    step = seen.advice.step
    sensor = Sensor(*CROP_PX, rig.camera.pitch_um, step.read_noise_e, step.full_well_e, rig.camera.response_nm)
    half = np.array(CROP_PX) / 2 - 85
    scale = rig.camera.pitch_um * 1e-3 / rig.lens.focal_mm
    # Stars on a grid, shaken a little, so that none touches another; bright enough to measure, none clips.
    grid = np.stack(np.meshgrid(np.linspace(-1, 1, 4), np.linspace(-1, 1, 3)), axis=-1).reshape(-1, 2)[:STARS]
    places = (grid * half + rng.uniform(-8, 8, grid.shape)) * scale
    dec = dec0 + places[:, 1]
    ra = ra0 + places[:, 0] / np.cos(dec)
    pupil = np.pi / 4 * (rig.lens.focal_mm / 10 / seen.light.f_number) ** 2
    room = 0.5 * (step.full_well_e - seen.light.background_e_s * t)
    total = room * 2 * np.pi * (rig.star_fwhm_px / 2.3548) ** 2
    magnitude = np.full(STARS, -2.5 * np.log10(total / (1e4 * pupil * rig.camera.response_nm * t)))
    background, ratios = [], []
    for frame in range(frames):
        # Frames are spread over the window, and the worm's phases over its turn, in another order.
        start = first + (last - first) * (frame + rng.uniform()) / frames - timedelta(seconds=t / 2)
        middle = observed(site, start, np.array([ra0]), np.array([dec0]))[0]
        look = Pointing(float(np.degrees(np.arcsin(middle[2]))), float(np.degrees(np.arctan2(-middle[1], middle[0]))), 0.0)
        phase = 2 * np.pi * ((frame * 17) % frames + rng.uniform()) / frames
        mount = Mount(
            site,
            case.error.altitude_arcmin,
            case.error.azimuth_arcmin,
            rig.tracker.pe_half_amplitude_arcsec,
            rig.tracker.pe_period_s,
            phase,
        )
        lens = Lens(rig.lens.focal_mm, seen.light.f_number, 0.0, optical, corner_light=1.0)
        camera = Camera(sensor, lens, subject.sky_mag, rng=rng)
        rendered = camera.take(ra, dec, magnitude, look, mount, Shot(start, t, 0.0), steps=STEPS)
        plane = rendered.electrons
        level = float(np.median(plane))
        background.append(level)
        ratios.append(long_axis_px(plane - np.float32(level), rendered.x, rendered.y, 2.6 * rig.star_fwhm_px) / rig.star_fwhm_px)
    return float(np.mean(background)), np.array(ratios)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rigs", type=int, default=30)
    parser.add_argument("--frames", type=int, default=40)
    asked = parser.parse_args()
    rng = np.random.default_rng(2026)
    print("  f mm   f/  ISO   sub s  axis   sky    background e⁻         elongation         kept, limit")
    print("                                        said    seen      said   seen        said   seen")
    wrong = 0
    for _ in range(asked.rigs):
        case = any_case(rng)
        seen, advice = case.seen, case.seen.advice
        said_level = (seen.light.background_e_s - seen.light.dark_e_s) * advice.exposure_s
        said_long = float(
            np.median([elongations(one, np.array([advice.exposure_s]), seen.wanted.star_fwhm_px) for one in seen.wanted.motions])
        )
        level, ratios = taken(case, rng, asked.frames)
        limit = seen.subject.choices.elongation_limit
        kept, long = float(np.mean(ratios <= limit)), float(np.nanmedian(ratios))
        off = (level / said_level - 1, long / said_long - 1, kept - advice.tracked)
        bad = any(abs(one) > AGREES for one in off)
        wrong += bad
        print(
            f"{seen.subject.rig.lens.focal_mm:6.0f} {seen.light.f_number:4.1f} {advice.step.iso:5d} {advice.exposure_s:6.0f}  "
            f"{case.error.total_arcmin:4.1f}′ {seen.subject.sky_mag:6.2f} {said_level:8.1f} {level:8.1f} {off[0] * 100:+4.0f} %  "
            f"{said_long:5.2f}  {long:5.2f} {off[1] * 100:+4.0f} %  {advice.tracked * 100:4.0f} % {kept * 100:4.0f} % at {limit:g}"
            f"{'  off' if bad else ''}"
        )
    print(f"all three within {AGREES * 100:.0f} %: {asked.rigs - wrong} of {asked.rigs}")


if __name__ == "__main__":
    main()
