"""Widest good stops of invented lenses against what their rays say: python -m benchmarks.lenses [lenses] [seed]

Lenses that lie within a twentieth of a limit at some stop are drawn anew: nobody could say on which side they are.
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from tests.invented_lens import any_lens, judged_stops, true_stops
from widedusk.core.judge.limits import Limits

Stops = tuple[float | None, float | None]


def one_lens(seed: int) -> tuple[int, Stops, Stops] | None:
    """What is true of the lens of a seed, and what is judged; None for one that nobody could tell."""
    lens, limits = any_lens(np.random.default_rng(seed)), Limits()
    wanted = true_stops(lens, limits)
    if wanted is None:
        return None
    with TemporaryDirectory() as folder:
        kind = {0: "mosaic", 3: "six"}.get(seed % 6, "fits")
        return seed, wanted, judged_stops(Path(folder), lens, seed, kind, limits)


def main(lenses: int = 50, first_seed: int = 1) -> None:
    right = drawn = 0
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:  # raw files are read by threads that no fork survives
        ahead = pool.map(one_lens, range(first_seed + 1, first_seed + 10 * lenses))
        for told in ahead:
            if told is None:
                continue
            seed, wanted, found = told
            drawn, right = drawn + 1, right + (found == wanted)
            print(f"{drawn:3d}  seed {seed}: from f/{wanted[0]} and f/{wanted[1]}, judged f/{found[0]} and f/{found[1]}",
                  "" if found == wanted else "  WRONG", flush=True)  # fmt: skip
            if drawn == lenses:
                break
        pool.shutdown(wait=False, cancel_futures=True)
    print(f"Widest good stop right, broadband and narrowband both, in {right} of {drawn}.")


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:3]))
