"""What judging a frame costs beside decoding and finding stars: python -m benchmarks.frames

A 24-megapixel JPEG and raw file from file to facts, the attitude of another frame of its run known, against decoding and source
extraction alone on the same file in the same run; frames by two processes against one; memory of a large raw file. A run of 3,000
at the server is in benchmarks/large_run.py.
"""

import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
import rawpy
import sep
from PIL import Image

from tests.core.test_pictures import as_dng
from tests.invented import a_pair, patterns, sky, write_picture
from widedusk.core.frames.frame import Known, read_frame
from widedusk.core.simulate.camera import Sensor

RUNS, SHARED = 5, 24


def alone(path: Path) -> None:
    """The reference: Pillow or LibRaw decodes, sep takes the background off and extracts."""
    if path.suffix == ".dng":
        with rawpy.imread(str(path)) as raw:
            plane = raw.raw_image_visible.astype(np.float32)
    else:
        with Image.open(path) as image:
            plane = np.asarray(image.convert("L")).astype(np.float32)
    level = sep.Background(plane)
    level.subfrom(plane)
    sep.extract(plane, 5.0, err=level.globalrms)


def timed(work) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def main() -> None:
    book = patterns()
    with tempfile.TemporaryDirectory() as folder:
        for focal in (35.0, 85.0, 200.0):
            pair = a_pair(focal_mm=focal, sensor=Sensor(6000, 4000, 6.0))
            jpeg = write_picture(Path(folder) / f"{focal:.0f}.jpg", pair, pair.shots[0])
            ra, dec, magnitude = sky(9.0)
            light = pair.camera.take(ra, dec, magnitude, pair.pointing, pair.mount, pair.shots[0]).electrons
            raw = as_dng(Path(folder) / f"{focal:.0f}.dng", np.clip(light + 300, 0, 65535).astype(np.uint16))
            for path in (jpeg, raw):

                def whole(path: Path = path, focal: float = focal, known: Known | None = None):
                    return read_frame(path, lambda: book, (36.0, focal), known, lambda *_: None)

                frame = whole()
                runs = [(timed(lambda p=path: alone(p)), timed(lambda k=frame.known, w=whole: w(known=k))) for _ in range(RUNS)]
                reference, ours = (statistics.median(column) for column in zip(*runs, strict=True))
                print(f"{path.name}: decoding, extraction {reference:.2f} s; to facts {ours:.2f} s; ratio {ours / reference:.2f}")
        path = Path(folder) / "85.jpg"
        two_at_once(path, 85.0)
    memory()


def two_at_once(path: Path, focal: float) -> None:
    """The same frames by one process and by two."""
    took = []
    for workers in (1, 2):
        with ProcessPoolExecutor(workers) as pool:
            list(pool.map(to_facts, [(path, focal)] * workers))  # patterns are read once
            started = time.perf_counter()
            list(pool.map(to_facts, [(path, focal)] * SHARED))
            took.append(time.perf_counter() - started)
    print(f"{SHARED} frames by one process {took[0]:.1f} s, by two {took[1]:.1f} s: {took[0] / took[1]:.2f} times as fast")


def to_facts(asked: tuple[Path, float]) -> None:
    path, focal = asked
    read_frame(path, patterns, (36.0, focal), None, lambda *_: None)


def memory() -> None:
    """What the process that reads takes at most for a raw file of 60 megapixels, patterns and libraries counted."""
    with tempfile.TemporaryDirectory() as folder:
        rng = np.random.default_rng(2)
        mosaic = rng.poisson(600, (6336, 9504)).astype(np.uint16)
        for x, y in rng.integers(8, 6000, (3000, 2)):
            mosaic[y : y + 3, x : x + 3] += np.uint16(9000)
        path = as_dng(Path(folder) / "large.dng", mosaic)
        code = (
            "import sys; from pathlib import Path; from widedusk.apart import loaded_for_measuring, readers;"
            "from widedusk.command.basics import VAR;"
            "most = lambda: int(Path('/proc/self/status').read_text().split('VmHWM:')[1].split()[0]) // 1000; before = most();"
            "readers.frame(Path(sys.argv[1]), VAR / 'solver' / 'patterns.bin', (36.0, 85.0), None, lambda *_: None);"
            "print(before, most())"
        )
        told = subprocess.run([sys.executable, "-c", code, str(path)], check=True, capture_output=True, text=True).stdout.split()
    print(f"a raw file of 60 megapixels: {told[1]} MB at most, {told[0]} MB of them before it is read")


if __name__ == "__main__":
    main()
