"""How well two photographs tell the axis: python -m benchmarks.two_photographs [--pairs 44] [--rendered 12]

Random sites, lenses, directions, axes up to 3° off, distortion up to 0.3 % at the corner, the optical axis up to 200 µm off
the middle, air up to 20 °C and 1.5 % of pressure off
the guess, camera clocks 30 s off. The truth is that of core/simulate. With --rendered, as many whole pictures of 24 megapixels
are drawn, written as JPEG and measured from the file; the rest begins at the stars' places with 0.3 px of noise.
"""

import argparse
import tempfile
from pathlib import Path

import numpy as np

from tests.invented import Pair, any_pair, axis_of, exposed, observer_of, patterns, write_picture
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.measure import measure
from widedusk.core.pole.photographs import Photographed, axis_from_pictures

FOCALS = (24.0, 35.0, 50.0, 85.0, 135.0, 200.0, 400.0)


def from_files(pair: Pair, book) -> Photographed | None:
    with tempfile.TemporaryDirectory() as folder:
        pictures = []
        for name, shot in zip(("first", "second"), pair.shots, strict=True):
            path = write_picture(Path(folder) / f"{name}.jpg", pair, shot)
            try:
                found = measure(path, book, 36.0, pair.camera.lens.focal_mm, lambda *_: None)
            except ValueError:
                return None
            pictures.append(exposed(pair, name, shot, found.matched))
    return axis_from_pictures(pictures, observer_of(pair.site), "refracted", Air())


def table(title: str, pairs: int, work) -> None:
    print(f"\n{title}")
    print("focal   pairs  solved   error, arcmin: median   95 %    worst   within 1σ  within 2σ  stars")
    every = []
    for focal in FOCALS:
        rng = np.random.default_rng(int(focal))
        errors, pulls, stars, solved = [], [], [], 0
        for _ in range(pairs):
            pair = any_pair(rng, focal)
            found = work(pair, rng)
            if found is None:
                continue
            solved += 1
            off = np.array(
                [found.error.altitude_arcmin - pair.mount.altitude_arcmin, found.error.azimuth_arcmin - pair.mount.azimuth_arcmin]
            )
            errors.append(float(np.hypot(*off)))
            pulls += list(np.abs(off / [found.error.altitude_sigma, found.error.azimuth_sigma]))
            stars.append(found.stars)
        every += errors
        pull = np.array(pulls)
        print(
            f"{focal:4.0f} mm {pairs:5d}  {100 * solved / pairs:5.0f} %  {np.median(errors):22.3f} "
            f"{np.percentile(errors, 95):6.3f} {max(errors):8.3f}   {100 * np.mean(pull < 1):6.0f} %   "
            f"{100 * np.mean(pull < 2):6.0f} %  {np.median(stars):5.0f}"
        )
    print(f"within 1′: {100 * np.mean(np.array(every) <= 1.0):.1f} % of {len(every)}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pairs", type=int, default=44)
    parser.add_argument("--rendered", type=int, default=0, help="whole pictures, pairs in all")
    asked = parser.parse_args()
    book = patterns()

    def from_places(pair: Pair, rng: np.random.Generator) -> Photographed | None:
        return axis_of(pair, book, rng, rng.uniform(0.95, 1.05))

    table("From the places of the stars, 0.3 px of noise", asked.pairs, from_places)
    if asked.rendered:
        table("From whole JPEGs of 24 megapixels", max(asked.rendered // len(FOCALS), 1), lambda pair, _: from_files(pair, book))


if __name__ == "__main__":
    main()
