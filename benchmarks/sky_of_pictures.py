"""The sky told from pictures: python -m benchmarks.sky_of_pictures.

Invented pictures under skies of 18.5, 20.5 and 21.7, with two lenses and two seeds: as linear files, with stars whose light has
wings too, and as JPEGs as they come and through five curves such as cameras draw, none of them of the family that is fitted.
What was told, or why not. The invented camera's band is redder than V; its stars come by another relation.
"""

from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter

from tests.invented import EVENING, SMALL, a_pair, camera_sky, patterns, sky
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.measure import measure
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Shot, as_fits, as_jpeg

Light = NDArray[np.float32]
CLIP_E = 40_000.0
SKIES = (18.5, 20.5, 21.7)
TUNED, HELD_OUT = (1, 2), (3, 4)  # seeds that the figures of tone.py were chosen by, and those that are reported
# Of linear light from 0 to 1, before it is encoded as usual. A lift that rolls off (Reinhard 2002), one of paper (a logistic of the
# logarithm), a table with a toe and a shoulder, and one that crushes what is dark.
_TABLE = PchipInterpolator([0.0, 0.02, 0.1, 0.25, 0.5, 0.8, 1.0], [0.0, 0.018, 0.14, 0.4, 0.7, 0.93, 1.0])
CURVES: dict[str, Callable[[Light], Light]] = {
    "as it comes": lambda light: light,
    "lifted": lambda light: light * 2.5 / (1.0 + 1.5 * light),
    "paper": lambda light: 1.18 / (1.0 + 0.18 * np.maximum(light, 1e-6) ** -1.1),
    "table": lambda light: np.asarray(_TABLE(light), dtype=np.float32),
    "crushed": lambda light: light**1.25,
    "mild": lambda light: light * 1.15 / (1.0 + 0.15 * light),
}


def with_wings(electrons: Light, share: float = 0.06, sigma_px: float = 3.5) -> Light:
    """The same picture with some of every star's light spread wide, as lenses and air do."""
    level = np.float32(np.median(electrons))
    return (1.0 - share) * electrons + share * (level + gaussian_filter(electrons - level, sigma_px))


def jpeg_through(curve: Callable[[Light], Light], electrons: Light, header: CardHeader) -> bytes:
    return as_jpeg(np.asarray(curve(np.clip(electrons / CLIP_E, 0.0, 1.0)), dtype=np.float32), 1.0, header)


def shots(skies: tuple[float, ...] = SKIES, seeds: tuple[int, ...] = HELD_OUT) -> Iterator[tuple[float, float, Light, CardHeader]]:
    """Sky, focal length, electrons and header of each picture."""
    for v_mag in skies:
        for focal in (85.0, 50.0):
            for seed in seeds:
                pair = a_pair(high=0.5, east=0.5, focal_mm=focal)
                camera = Camera(SMALL, Lens(focal, 2.8, 0.001, 2.6), camera_sky(v_mag), rng=np.random.default_rng(seed))
                electrons = camera.take(*sky(9.9), pair.pointing, pair.mount, Shot(EVENING, 20.0, 0.0)).electrons
                yield v_mag, focal, electrons, CardHeader(EVENING.replace(tzinfo=None), 20.0, focal)


def told(name: str, content: bytes, focal: float) -> Lit:
    with TemporaryDirectory() as folder:
        path = Path(folder) / name
        path.write_bytes(content)
        found = measure(path, patterns(), 36.0, focal, lambda *_: None, light=True).lit
    assert found is not None  # noqa: S101
    return found


def main() -> None:
    linear, curved, refused = [], [], {}
    for v_mag, focal, electrons, header in shots():
        files = {"linear": as_fits(electrons, CLIP_E, header), "linear, wings": as_fits(with_wings(electrons), CLIP_E, header)}
        files |= {name: jpeg_through(curve, electrons, header) for name, curve in CURVES.items()}
        for name, content in files.items():
            found = told("one.fits" if name.startswith("linear") else "one.jpg", content, focal)
            said = f"{v_mag:5.1f} {focal:4g} mm {name:14}"
            if found.sky_mag is None or found.sky_sigma is None:
                refused.setdefault(name, []).append(v_mag)
                print(f"{said} refused: {found.why_no_sky[:70]}")
                continue
            print(f"{said} {found.sky_mag - v_mag:+.3f} ± {found.sky_sigma:.3f}, {found.stars} stars")
            (linear if name.startswith("linear") else curved).append((found.sky_mag - v_mag) / found.sky_sigma)
    for name, pulls in (("linear", np.abs(linear)), ("JPEGs", np.abs(curved))):
        within = ", ".join(f"{np.mean(pulls < most) * 100:.0f} % within {most} σ" for most in (1, 2))
        print(f"{name}: {len(pulls)} told, {within}")
    for name, skies in refused.items():
        print(f"{name}: refused under {', '.join(f'{one:g}' for one in sorted(set(skies)))}, {len(skies)} in all")


if __name__ == "__main__":
    main()
