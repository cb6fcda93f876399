"""Invented runs from drawing to judgement, for tests and benchmarks: files are written and read like any other."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import numpy as np

from tests.cached_result import MEASURING, cached_result
from tests.invented import patterns, sky
from widedusk.core.frames.frame import Frame, read_frame
from widedusk.core.judge.account import judged_run
from widedusk.core.judge.course import Around, Shot, course
from widedusk.core.judge.finding import find_causes
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.reading import UNKNOWN
from widedusk.core.judge.word import judge
from widedusk.core.simulate.camera import CardHeader, as_fits, as_jpeg, observed
from widedusk.core.simulate.series import Sky, TrueFrame, take
from widedusk.core.simulate.spoiled import GOOD, NONE_OF_THESE, PLANS, Spoiled, spoiled
from widedusk.core.sky.places import Observer

FOCALS = (24.0, 35.0, 50.0, 85.0, 100.0, 135.0, 200.0, 300.0, 400.0)
KINDS = tuple(PLANS)
START_MJD = 61_000.0
LIMITS = Limits()
__all__ = ["GOOD", "KINDS", "Outcome", "judged_invented", "judged_run", "shots_of"]


@cache
def the_sky() -> Sky:
    return Sky(*sky())


def frames_of(folder: Path, run: Spoiled, fits: bool, rng: np.random.Generator) -> Iterator[tuple[Frame, TrueFrame]]:
    """Each frame drawn, written, read and measured, the first solved by its patterns, the others after it."""
    scene, known = run.scene, None
    path = folder / ("frame.fits" if fits else "frame.jpg")
    sensor_mm = scene.camera.sensor.width_px * scene.camera.sensor.pitch_um / 1000.0
    for number, happening in enumerate(run.happenings):
        drawn = take(scene, the_sky(), number, happening, rng)
        header = CardHeader(scene.moment(scene.begins_s(number)), scene.exposure_s, scene.camera.lens.focal_mm)
        path.write_bytes((as_fits if fits else as_jpeg)(drawn.electrons, run.clip_e, header))
        frame = read_frame(path, patterns, (sensor_mm, scene.camera.lens.focal_mm), known, lambda *_: None)
        known = known or frame.known
        yield frame, drawn


def shots_of(run: Spoiled, frames: list[Frame]) -> list[Shot]:
    return [
        Shot(f"frame {number}", START_MJD + run.scene.begins_s(number) / 86400.0, run.scene.exposure_s, frame.facts)
        for number, frame in enumerate(frames)
    ]


def around_of(run: Spoiled, cause: str) -> Around:
    """Air and natural light as they truly were."""
    scene = run.scene
    ra, dec = scene.direction(0.0)
    moments = [scene.moment(scene.begins_s(number)) for number in range(len(run.happenings))]
    up = np.array([observed(scene.mount.site, one, np.array([ra]), np.array([dec]))[0, 2] for one in moments])
    natural = np.array([one.sky for one in run.happenings]) if cause == "moon" else np.ones(len(moments))
    return Around(1.0 / up, natural / natural.min())


def _turned(run: Spoiled, truth: list[TrueFrame]) -> np.ndarray:
    """Elongation of a star in a field that turns, the median over the picture."""
    sensor = run.scene.camera.sensor
    x, y = np.meshgrid(np.linspace(-0.5, 0.5, 31) * sensor.width_px, np.linspace(-0.5, 0.5, 21) * sensor.height_px)
    told = []
    for one, frame in zip(run.happenings, truth, strict=True):
        turn = np.radians(one.turn_deg[1] - one.turn_deg[0])
        trail = turn * np.hypot(x - one.about[0], y - one.about[1])
        told.append(float(np.median(np.sqrt(1.0 + trail**2 / 12.0 / frame.star_sigma_px**2))))
    return np.array(told)


def truly_culled(run: Spoiled, truth: list[TrueFrame]) -> np.ndarray:
    """By the limits that are told to a person, from what was drawn and not from what was measured."""
    untrailed = np.sqrt((run.scene.camera.lens.fwhm_px / 2.3548) ** 2 + 1 / 12)
    wide = np.array([one.star_sigma_px for one in truth]) / untrailed
    bright = np.array([one.sky for one in truth])
    brings = np.array([(one.clear * one.gain / one.noise_e) ** 2 if one.sky else 0.0 for one in truth]) / np.square(wide)
    drawn_out = np.sqrt(1 + (run.scene.glass.astigmatism_px / untrailed) ** 2) > LIMITS.elongation  # by the glass, in every frame
    knocked = np.isin(np.arange(len(truth)), list(run.causes.get("knock", ())))
    return (
        (np.maximum([one.elongation for one in truth], _turned(run, truth)) > LIMITS.elongation)
        | (wide > LIMITS.width)
        | (brings < np.quantile(brings, 0.75) / 3)
        | (bright == 0.0)
        | drawn_out
        | knocked
    )


@dataclass(frozen=True)
class Outcome:
    """wanted and found: keys of causes, GOOD for none. frames_right: kept or culled as they truly should be."""

    wanted: str
    found: str
    seed: int
    focal_mm: float
    sure: float
    frames: int
    frames_right: int
    culled: int


Measured = tuple[Spoiled, list[tuple[Frame, TrueFrame]]]


def _measured(folder: Path, run: Spoiled, fits: bool, rng: np.random.Generator) -> Measured:
    """A run drawn and measured; of what is true of its frames, all but the light itself."""
    no_light = np.zeros((0, 0), dtype=np.float32)
    return run, [(frame, replace(truth, electrons=no_light)) for frame, truth in frames_of(folder, run, fits, rng)]


def _any_run(folder: Path, cause: str, seed: int, count: int) -> Measured:
    rng = np.random.default_rng([seed, KINDS.index(cause)])
    focal, south, fits = float(rng.choice(FOCALS)), bool(rng.random() < 0.5), bool(rng.random() < 0.4)
    return _measured(folder, spoiled(rng, cause, focal, south, count), fits, rng)


def measured_run(
    folder: Path, seed: int, cause: str, focal: float, south: bool, count: int, fits: bool, **mount: float
) -> Measured:
    """For tests of judging: what was measured of an invented run, and what is true of it."""

    def made() -> Measured:
        rng = np.random.default_rng(seed)
        run = spoiled(rng, cause, focal, south, count)
        run = replace(run, scene=replace(run.scene, mount=replace(run.scene.mount, **mount)))
        return _measured(folder, run, fits, rng)

    return cached_result("run", MEASURING, (seed, cause, focal, south, count, fits, mount), made)


def judged_invented(folder: Path, cause: str, seed: int, count: int) -> Outcome:
    run, pairs = cached_result("run", MEASURING, (cause, seed, count), lambda: _any_run(folder, cause, seed, count))
    with np.errstate(all="ignore"):
        laid = course(shots_of(run, [one for one, _ in pairs]), around_of(run, cause))
        found = find_causes(laid)
        words = judge(laid, found, LIMITS)
    culled = np.array([one.word == "cull" for one in words])
    right = int(np.count_nonzero(culled == truly_culled(run, [one for _, one in pairs])))
    wanted = UNKNOWN if cause == NONE_OF_THESE else cause
    told = (found[0].cause, found[0].sure) if found else (GOOD, 1.0)
    return Outcome(wanted, told[0], seed, run.scene.camera.lens.focal_mm, told[1], count, right, int(culled.sum()))


def observer(run: Spoiled) -> Observer:
    site = run.scene.mount.site
    return Observer(np.radians(site.latitude_deg), np.radians(site.longitude_deg), site.height_m)
