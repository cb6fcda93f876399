"""What measuring costs beside decoding and finding stars: python -m benchmarks.measuring

Two 24-megapixel JPEGs from file to screw instructions, against decoding and source extraction alone on the same two in the same
run; then the memory of a process that measures one of 60 megapixels.
"""

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import sep
from PIL import Image

from tests.invented import a_pair, exposed, observer_of, patterns, write_picture
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.measure import measure
from widedusk.core.pole.photographs import axis_from_pictures
from widedusk.core.pole.screws import screw_moves
from widedusk.core.simulate.camera import Sensor

RUNS = 5
LARGE = Sensor(9504, 6336, 3.79)


def alone(paths: list[Path]) -> None:
    """The reference: Pillow decodes, sep takes the background off and extracts."""
    for path in paths:
        with Image.open(path) as image:
            plane = np.asarray(image.convert("L")).astype(np.float32)
        level = sep.Background(plane)
        level.subfrom(plane)
        sep.extract(plane, 5.0, err=level.globalrms)


def whole(pair, book, paths: list[Path]) -> None:
    pictures = [
        exposed(pair, path.name, shot, measure(path, book, 36.0, pair.camera.lens.focal_mm, lambda *_: None).matched)
        for path, shot in zip(paths, pair.shots, strict=True)
    ]
    found = axis_from_pictures(pictures, observer_of(pair.site), "refracted", Air())
    screw_moves(found.error, True, 24.6, 1.2, 0.8)


def timed(work) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def memory_of_one(path: str) -> None:
    """Run in a process of its own."""
    found = measure(Path(path), patterns(), 36.0, 85.0, lambda *_: None)
    # Not getrusage: its highest mark is handed down from the process that started this one.
    status = Path("/proc/self/status").read_text()
    peak = next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmHWM")) / 1024
    print(f"60 megapixels: peak of the process {peak:.0f} MB, {found.matched.x.size} stars known")


def main() -> None:
    if len(sys.argv) > 1:
        memory_of_one(sys.argv[1])
        return
    book = patterns()
    with tempfile.TemporaryDirectory() as folder:
        for focal in (35.0, 85.0, 200.0):
            pair = a_pair(focal_mm=focal, sensor=Sensor(6000, 4000, 6.0))
            paths = [write_picture(Path(folder) / f"{focal}-{place}.jpg", pair, shot) for place, shot in enumerate(pair.shots)]
            whole(pair, book, paths)
            runs = [(timed(lambda p=paths: alone(p)), timed(lambda a=pair, p=paths: whole(a, book, p))) for _ in range(RUNS)]
            reference, ours = (statistics.median(column) for column in zip(*runs, strict=True))
            print(
                f"{focal:.0f} mm: decoding, extraction {reference:.2f} s; to the screws {ours:.2f} s; ratio {ours / reference:.2f}"
            )
        large = a_pair(focal_mm=85.0, sensor=LARGE)
        path = write_picture(Path(folder) / "large.jpg", large, large.shots[0])
        subprocess.run([sys.executable, "-m", "benchmarks.measuring", str(path)], check=True)


if __name__ == "__main__":
    main()
