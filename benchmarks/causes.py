"""How often the likeliest cause of an invented run is the right one, and a frame is rightly kept or culled:
python -m benchmarks.causes [runs a cause] [frames a run] [first seed]

Runs over every cause of the list, lenses from 24 to 400 mm, both hemispheres, JPEG and FITS, each drawn, written to a file, read,
measured and judged like any other. The sky and the tracker are those of core/simulate, which shares nothing with what judges.
"""

import sys
import tempfile
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from pathlib import Path

import numpy as np

from tests.invented_runs import GOOD, KINDS, Outcome, judged_invented


def one(asked: tuple[str, int, int]) -> Outcome:
    cause, seed, count = asked
    with tempfile.TemporaryDirectory() as folder:
        return judged_invented(Path(folder), cause, seed, count)


def main() -> None:
    runs, count, first = ([int(given) for given in sys.argv[1:]] + [16, 20, 0][len(sys.argv) - 1 :])[:3]
    asked = [(cause, first + seed, count) for seed in range(runs) for cause in KINDS]
    table: dict[str, Counter[str]] = defaultdict(Counter)
    right_frames: Counter[str] = Counter()
    sure: list[tuple[float, bool]] = []
    lost = 0
    with ProcessPoolExecutor(2) as pool:
        for done, told in enumerate(pool.map(one, asked), 1):
            table[told.wanted][told.found] += 1
            right_frames["right"] += told.frames_right
            right_frames["all"] += told.frames
            sure.append((told.sure, told.found == told.wanted))
            lost += told.wanted == GOOD and told.culled > 0.5 * told.frames
            if told.found != told.wanted:
                print(f"  {told.wanted} {told.seed}, {told.focal_mm:.0f} mm: {told.found}", flush=True)
            if done % len(KINDS) == 0:
                print(f"{done} runs", flush=True)
    right = sum(row[wanted] for wanted, row in table.items())
    print(f"likeliest cause right in {right} of {len(asked)}, {100 * right / len(asked):.1f} %")
    print(f"kept or culled rightly: {100 * right_frames['right'] / right_frames['all']:.2f} % of {right_frames['all']} frames")
    print(f"good runs culled for the most part: {lost}")
    for wanted, row in sorted(table.items()):
        print(f"  {wanted:14} " + ", ".join(f"{found} {many}" for found, many in row.most_common()))
    edges = np.array([0.0, 0.7, 0.85, 0.95, 1.0])
    for low, high in pairwise(edges):
        here = [ok for how, ok in sure if low < how <= high]
        if here:
            print(f"  said {100 * low:.0f} to {100 * high:.0f} % sure: right in {sum(here)} of {len(here)}")


if __name__ == "__main__":
    main()
