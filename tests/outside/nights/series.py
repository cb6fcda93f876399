"""A night from its drawing to its judgement, with what is true of each of its frames beside it."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import astropy.units as u
import galsim
import numpy as np
from astropy.coordinates import CIRS, SkyCoord

from tests.cached_result import cached_result
from tests.outside.nights.camera import Exposed, Sensor, Ways, _colours, horizon, pictures, settled, spread_of
from tests.outside.nights.drawing import NODES, Frame, Night, night_of
from widedusk.command.install import PATTERNS
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.frame import Frame as Measured
from widedusk.core.frames.frame import read_frame
from widedusk.core.frames.patterns import load_patterns
from widedusk.core.judge.account import JudgedRun, judged_run
from widedusk.core.judge.axis_of_run import Seen, axis_of_run
from widedusk.core.judge.course import LEARNED_SPREAD, USUAL_SPREAD, ExpectedWidth, Shot, typical_width
from widedusk.core.judge.limits import Limits
from widedusk.core.pole.axis import AxisError
from widedusk.core.sky.places import Observer

CODE = (
    "tests/outside/nights/*", "widedusk/core/*.py", "widedusk/core/catalogue/*",
    *(f"widedusk/core/{room}/*" for room in ("frames", "sky", "tracking")),
)  # fmt: skip
LIMITS = Limits()
NEAR = {"elongation": 0.08, "width": 0.08, "worth": 0.2}  # shares of a limit within which a frame may go either way
MIDDLE = 0.5  # of the half diagonal


@dataclass(frozen=True)
class Truth:
    """Of each frame, (n,): elongation and width of the middle's stars against what they are in focus; clear, share of starlight;
    seen, share of the picture that has a sky; worth against a good frame. width_px: of stars in the
    middle part of the picture, in focus, untrailed."""

    elongation: np.ndarray
    width: np.ndarray
    clear: np.ndarray
    seen: np.ndarray
    worth: np.ndarray
    width_px: float

    @property
    def culled(self) -> np.ndarray:
        return (self.elongation > LIMITS.elongation) | (self.width > LIMITS.width) | (self.worth < 1 / 3)

    @property
    def undecided(self) -> np.ndarray:
        """So near a limit that a careful person might say either."""
        over = np.stack([self.elongation / LIMITS.elongation, self.width / LIMITS.width, 1 / 3 / np.maximum(self.worth, 1e-9)])
        near = np.array(list(NEAR.values()))[:, None]
        return (np.abs(over - 1) < near).any(axis=0) & ~(over > 1 + near).any(axis=0)


@dataclass(frozen=True)
class Series:
    night: Night
    frames: tuple[Measured, ...]
    truth: Truth

    @property
    def shots(self) -> list[Shot]:
        night = self.night
        return [
            Shot(f"frame {n}", night.start_mjd + night.begins_s(n) / 86_400, night.exposure_s, frame.facts, 1600, night.f_number)
            for n, frame in enumerate(self.frames)
        ]

    @property
    def observer(self) -> Observer:
        night = self.night
        return Observer(np.radians(night.latitude_deg), np.radians(night.longitude_deg), night.height_m)


def _star_sigma(night: Night, frame: Frame, rng: np.random.Generator, within: float = 0.0) -> float:
    """Adaptive moments (galsim's own) of an untrailed star in the middle, drawn bright and without noise, at many places; of that
    of all the middle part of the picture with `within`, half diagonals."""
    side, told = 64, []
    for _ in range(4):
        away, around = within * np.sqrt(rng.random(40_000)), rng.uniform(0, 2 * np.pi, 40_000)
        at = np.stack([away * np.cos(around), away * np.sin(around)])
        off = spread_of(night, frame, at, rng) + side / 2 + rng.uniform(-1, 1, (2, 1))
        image, _, _ = np.histogram2d(off[1], off[0], bins=side, range=[[0, side], [0, side]])
        if night.mosaic != "none" and night.form == "jpeg":  # what is written raw has no colours put in
            image = _colours(night, image * np.tile([[0.95, 1.0], [1.0, 0.7]], (side // 2, side // 2))).mean(axis=2)
        moments = galsim.hsm.FindAdaptiveMom(galsim.Image(image.astype(float)), guess_sig=2.0, strict=False)
        if moments.moments_sigma > 0:
            told.append(moments.moments_sigma)
    return float(np.median(told)) if told else float("nan")


def _trail(centre: np.ndarray) -> float:
    """Variance along the longest way of a star that moves evenly from node to node, px²."""
    fine = np.linspace(0, NODES - 1, 400)
    way = np.stack([np.interp(fine, np.arange(NODES), axis) for axis in centre.T])
    return float(np.linalg.eigvalsh(np.cov(way)).max())


def _turned(night: Night, ways: Ways, number: int) -> float:
    """The same where the field turns: of the median star in the middle of the picture, px²."""
    x, y = ways.x[number], ways.y[number]
    corner = np.hypot(night.width_px, night.height_px) / 2
    middle = np.hypot(x[0] - night.width_px / 2, y[0] - night.height_px / 2) < MIDDLE * corner
    return float(np.median([_trail(np.stack(way, axis=1)) for way in zip(x[:, middle].T, y[:, middle].T, strict=True)]))


def truth_of(night: Night, ways: Ways, exposed: list[Exposed]) -> Truth:
    rng = np.random.default_rng([9, night.seed])
    sensor = Sensor(replace(night, width_px=300, height_px=200, hot=0.0), rng)
    inside = np.hypot(sensor.x, sensor.y) < MIDDLE
    focused = _star_sigma(night, Frame(), rng)
    typical = _star_sigma(night, Frame(), rng, MIDDLE)
    figures = []
    for number, frame in enumerate(night.frames):
        changed = frame.disc_px or frame.fog_px or frame.halo or frame.drop[3]
        sigma = _star_sigma(night, frame, rng) if changed else focused
        open_sky = ~sensor.behind(frame, sensor.x, sensor.y)
        through = sensor.through(frame, sensor.x, sensor.y) * (1 - frame.halo)
        seen = 0.0 if frame.capped else float(open_sky.mean())
        here = open_sky & inside if (open_sky & inside).any() else open_sky
        clear = float(through[here].mean()) if here.any() and seen else 0.0
        trail = _trail(ways.centre[number]) if night.guide_px is None else _turned(night, ways, number)
        one = exposed[number]
        brings = seen * (clear * frame.gain / (one.noise_e * sigma)) ** 2
        figures.append((np.sqrt(1 + trail / sigma**2), sigma / focused, clear, seen, brings))
    elongation, width, clear, seen, brings = np.array(figures).T
    return Truth(elongation, width, clear, seen, brings / max(float(np.quantile(brings, 0.75)), 1e-12), 2.3548 * typical)


@dataclass(frozen=True)
class Drawn:
    night: Night
    files: tuple[tuple[str, bytes], ...]
    truth: Truth


def drawn(seed: int) -> Drawn:
    night, files, exposures, ways = settled(night_of(seed)), [], [], None
    for name, content, exposed, here in pictures(night):
        files.append((name, content))
        exposures.append(replace(exposed, electrons=np.zeros(0)))
        ways = here
    assert ways is not None
    return Drawn(night, tuple(files), truth_of(night, ways, exposures))


def measured(one: Drawn) -> Series:
    """Each file read as any other, the first frames solved by patterns and later ones after them."""
    known, frames, night = None, [], one.night
    with tempfile.TemporaryDirectory() as folder:
        for name, content in one.files:
            path = Path(folder) / name
            path.write_bytes(content)
            frame = read_frame(path, lambda: load_patterns(PATTERNS), (night.sensor_mm, night.focal_mm), known, lambda *_: None)
            path.unlink()
            known = known or frame.known
            frames.append(replace(frame, preview=b"", crops=b""))
    return Series(night, tuple(frames), one.truth)


def series(seed: int) -> Series:
    """Drawn and measured once for each state of the code that draws and measures."""
    return cached_result("night", CODE, seed, lambda: measured(drawn(seed)))


def true_axis_arcmin(night: Night) -> tuple[float, float]:
    """High of the pole as the air shows it, by astropy's refraction there, and east of it along the sky."""
    high, turned = night.axis_arcmin
    frame = horizon(night, np.array([0.0]))
    pole = SkyCoord(
        0 * u.deg, np.sign(night.latitude_deg) * 90 * u.deg, frame=CIRS(obstime=frame.obstime[0], location=frame.location)
    )
    lifted = float(pole.transform_to(frame).alt.arcmin[0]) - abs(night.latitude_deg) * 60.0
    way = 1.0 if night.latitude_deg > 0 else -1.0
    return way * high - lifted, -way * turned * float(np.cos(np.radians(night.latitude_deg)))


def axis_of(one: Series, left_out: frozenset[int] = frozenset()) -> AxisError | None:
    """As the run's own frames tell it, without some."""
    seen = []
    for number, (shot, frame) in enumerate(zip(one.shots, one.frames, strict=True)):
        if number not in left_out and frame.known is not None and frame.stars:
            columns = np.array([[star.ra_deg, star.dec_deg, star.v_mag, star.x, star.y] for star in frame.stars]).T
            sides = one.night.width_px, one.night.height_px
            seen.append(Seen(shot, *columns, *sides, np.array(frame.known.toward), frame.known.bend))
    return axis_of_run(seen, one.observer, "refracted", Air()) if seen else None


def judged(one: Series) -> JudgedRun:
    night = one.night
    learned = ExpectedWidth(night.known_width * one.truth.width_px, LEARNED_SPREAD)
    typical = ExpectedWidth(typical_width(2.5, night.px_arcsec), USUAL_SPREAD)
    return judged_run(one.shots, one.observer, LIMITS, learned if night.width_learned else typical)
