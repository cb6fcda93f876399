"""What judging a frame costs beside decoding and finding stars, and a run of 3,000 at the server: python -m benchmarks.frames

A 24-megapixel JPEG from file to facts, the attitude of another frame of its run known, against decoding and source extraction alone
on the same file in the same run; then the judging of a run of 3,000 frames from facts as they are stored, and once more while kept.
"""

import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import sep
from PIL import Image

from tests.invented import a_pair, patterns, write_picture
from widedusk.core.frames.frame import Known, read_frame
from widedusk.core.judge.account import judged_run, run_verdict
from widedusk.core.judge.course import Shot
from widedusk.core.judge.word import Limits
from widedusk.core.simulate.camera import Sensor
from widedusk.core.sky.places import Observer
from widedusk.records.frames.frames import facts_of, stored_facts

RUNS, FRAMES = 5, 3000


def alone(path: Path) -> None:
    """The reference: Pillow decodes, sep takes the background off and extracts."""
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
            path = write_picture(Path(folder) / f"{focal}.jpg", pair, pair.shots[0])

            def whole(path: Path = path, focal: float = focal, known: Known | None = None):
                return read_frame(path, lambda: book, (36.0, focal), known, lambda *_: None)

            frame = whole()
            runs = [(timed(lambda p=path: alone(p)), timed(lambda k=frame.known, w=whole: w(known=k))) for _ in range(RUNS)]
            reference, ours = (statistics.median(column) for column in zip(*runs, strict=True))
            print(f"{focal:.0f} mm: decoding, extraction {reference:.2f} s; to facts {ours:.2f} s; ratio {ours / reference:.2f}")
    stored = stored_facts(replace(frame.facts))
    site = Observer(np.radians(-24.0), np.radians(16.0), 900.0)

    def judged():
        shots = [Shot(str(place), 61_000 + place * 62 / 86400, 60.0, facts_of(stored)) for place in range(FRAMES)]
        return judged_run(shots, site, Limits())

    first = timed(judged)
    told = judged()
    print(f"{FRAMES} frames from stored facts to words and causes {first:.2f} s")
    print(f"  kept in memory: verdict with the person's words {timed(lambda: run_verdict(told, [''] * FRAMES)):.3f} s")


if __name__ == "__main__":
    main()
