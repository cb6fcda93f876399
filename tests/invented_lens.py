"""What a lens that nobody owns truly does to stars, read off its rays; for tests and benchmarks."""

from dataclasses import replace
from datetime import datetime
from pathlib import Path

import numpy as np

from tests.cached_result import DRAWING, MEASURING, cached_result
from tests.invented import SIX, as_dng, of_tiles
from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS
from widedusk.core.frames.lens_facts import LensPicture
from widedusk.core.frames.lens_picture import read_lens_picture
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.my_lens import StoppedBy, Taken, judge_lens
from widedusk.core.simulate.camera import CardHeader, as_fits, as_jpeg
from widedusk.core.simulate.lens import BLUE, GREEN, RED, InventedLens, Shot, mosaic, picture

START = datetime(2026, 12, 8, 21, 0)
CLIP_E = 60_000.0
SIDES = (1920, 1280)
FINE_PX = 0.2


def shown(folder: Path, lens: InventedLens, f_number: float, seed: int, kind: str = "fits", **more: object) -> LensPicture:
    """A picture drawn, written and measured."""
    content = cached_result(
        "lens", DRAWING, (lens, f_number, seed, kind, more), lambda: _drawn(folder, lens, f_number, seed, kind, more)
    )
    path = folder / {"jpeg": "lens.jpg", "six": "lens.dng"}.get(kind, "lens.fits")
    path.write_bytes(content)
    seen = read_lens_picture(path, lambda *_: None)
    return replace(seen, f_number=f_number) if kind == "six" else seen


def facts(folder: Path, lens: InventedLens, f_number: float, seed: int, kind: str = "fits", **more: object) -> LensPicture:
    """The same, measured once; for tests that judge what was measured."""
    given = (lens, f_number, seed, kind, more)
    return cached_result("lens-facts", MEASURING, given, lambda: shown(folder, lens, f_number, seed, kind, **more))


def _drawn(folder: Path, lens: InventedLens, f_number: float, seed: int, kind: str, more: dict[str, object]) -> bytes:
    shot = Shot(f_number, *SIDES, **{"stars": 1100, **more})  # type: ignore[arg-type]
    drawn = picture(lens, shot, np.random.default_rng(seed))
    header = CardHeader(START, 12.0, 85.0, f_number=f_number, mosaic="RGGB" if kind == "mosaic" else "")
    if kind == "six":
        mosaic_of_six = of_tiles(np.clip(drawn, 0, 65_535), SIX).astype(np.uint16)
        return as_dng(folder / "drawn.dng", mosaic_of_six, SIX).read_bytes()
    light = mosaic(drawn) if kind == "mosaic" else drawn
    return (as_jpeg if kind == "jpeg" else as_fits)(light, CLIP_E, header)


def true_moments(light: np.ndarray, step: float = FINE_PX) -> np.ndarray:
    """Covariance (px²) and middle of a spot by brute force, with a Gaussian window that is made as wide as what it finds. As
    (xx, yy, xy, x, y)."""
    size = light.shape[0] // 2
    rows, columns = np.mgrid[-size : size + 1, -size : size + 1] * step
    covariance, middle, before = 4.0 * np.eye(2), np.zeros(2), np.inf
    for _ in range(300):
        off = np.stack([columns - middle[0], rows - middle[1]])
        inverse = np.linalg.inv(covariance)
        far = inverse[0, 0] * off[0] ** 2 + inverse[1, 1] * off[1] ** 2 + 2 * inverse[0, 1] * off[0] * off[1]
        window = np.exp(-0.5 * far) * light
        total = window.sum()
        middle = middle + np.array([np.sum(window * one) for one in off]) / total
        covariance = 2 * np.array([[np.sum(window * one * other) for one in off] for other in off]) / total
        if abs(np.trace(covariance) - before) < 1e-6:
            break
        before = float(np.trace(covariance))
    return np.array([covariance[0, 0], covariance[1, 1], covariance[0, 1], *middle])


def true_zone(lens: InventedLens, f_number: float, zone: int, colour: int, across: int = 3) -> np.ndarray:
    """Of the typical star of a zone, as `true_moments`: the median over a grid of places in it."""
    given = (lens, f_number, zone, colour, across)
    return cached_result("zone", DRAWING, given, lambda: _zone(*given))


def _zone(lens: InventedLens, f_number: float, zone: int, colour: int, across: int) -> np.ndarray:
    half = float(np.hypot(*SIDES)) / 2
    parts = (np.arange(across) + 0.5) / across
    xs = ((zone % ZONE_COLUMNS + parts) / ZONE_COLUMNS - 0.5) * SIDES[0] / half
    ys = ((zone // ZONE_COLUMNS + parts) / ZONE_ROWS - 0.5) * SIDES[1] / half
    return np.median([true_moments(lens.spot(x, y, f_number, colour)) for x in xs for y in ys], axis=0)


def true_worst(lens: InventedLens, f_number: float, narrow: bool) -> tuple[float, float, float]:
    """Elongation and width (FWHM, px) in the worst of the zones' middles, and that of the picture's middle.

    Broadband light is that of three colours laid over each other where they truly lie.
    """
    return cached_result("worst", DRAWING, (lens, f_number, narrow), lambda: _worst(lens, f_number, narrow))


def _worst(lens: InventedLens, f_number: float, narrow: bool) -> tuple[float, float, float]:
    half = float(np.hypot(*SIDES)) / 2
    found = []
    for zone in range(ZONE_COLUMNS * ZONE_ROWS):
        x = ((zone % ZONE_COLUMNS + 0.5) / ZONE_COLUMNS - 0.5) * SIDES[0] / half
        y = ((zone // ZONE_COLUMNS + 0.5) / ZONE_ROWS - 0.5) * SIDES[1] / half
        light = sum(lens.spot(x, y, f_number, colour, placed=True) for colour in ((RED,) if narrow else (RED, GREEN, BLUE)))
        found.append(axes(*true_moments(light)[:3]))
    elongation, width = np.array(found).T
    return float(elongation.max()), float(width.max()), float(width[ZONE_COLUMNS * ZONE_ROWS // 2])


STOPS = (1.8, 2.8, 4.0, 5.6)
CLEAR = 0.05  # share of a limit within which nobody could say on which side a lens lies


def any_lens(rng: np.random.Generator) -> InventedLens:
    return InventedLens(
        coma_px=float(rng.uniform(0.0, 2.2)),
        curved_px=float(rng.uniform(0.0, 3.0)),
        tilt_px=float(rng.choice([0.0, rng.uniform(1.0, 4.0)])),
        tilt_deg=float(rng.uniform(0, 360)),
        askew=tuple(rng.choice([0.0, 1.0]) * rng.uniform(-0.4, 0.4, 2)),
        focus_px=(float(rng.uniform(-2, 2)), 0.0, float(rng.uniform(-2.5, 2.5))),
        larger=tuple(float(one) for one in rng.uniform(-1.2, 1.2, 2)),
        fall=float(rng.uniform(0.2, 0.7)),
        blades=int(rng.integers(5, 10)),
    )


def true_stops(lens: InventedLens, limits: Limits) -> tuple[float | None, float | None] | None:
    """From which stop on the lens is truly good, in broadband and in red; None where some stop lies too close to a limit to say."""
    told = []
    for narrow in (False, True):
        seen = np.array([true_worst(lens, one, narrow) for one in STOPS])
        elongation, width = seen[:, 0] / limits.elongation, seen[:, 1] / seen[:, 2].min() / limits.width
        worst = np.maximum(elongation, width)
        if np.any(np.abs(worst - 1.0) < CLEAR):
            return None
        good = [stop for place, stop in enumerate(STOPS) if np.all(worst[place:] < 1.0)]
        told.append(good[0] if good else None)
    return told[0], told[1]


def judged_stops(folder: Path, lens: InventedLens, seed: int, kind: str, limits: Limits) -> tuple[float | None, float | None]:
    by: StoppedBy = "iris" if seed % 2 else "ring"
    taken = []
    for stop in STOPS:
        seen = facts(folder, lens, stop, seed, kind, by_iris=by == "iris", exposed=stop / STOPS[0])
        taken.append(Taken(f"f/{stop}", stop, by, seen))
    found = judge_lens(taken, limits)
    return found.broad, found.narrow


def axes(xx: float, yy: float, xy: float) -> tuple[float, float]:
    """Long over short axis, and the width of the round star of the same area (FWHM)."""
    small, large = np.linalg.eigvalsh([[xx, xy], [xy, yy]])
    return float(np.sqrt(large / small)), float(2.3548 * (large * small) ** 0.25)
