"""Widest good stops of invented lenses against what their rays say: python -m benchmarks.lenses [lenses] [seed]

Lenses that lie within a twentieth of a limit at some stop are drawn anew: nobody could say on which side they are.
"""

import sys
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from tests.invented_lens import any_lens, judged_stops, true_stops
from widedusk.core.judge.word import Limits


def main(lenses: int = 50, first_seed: int = 1) -> None:
    limits, right, drawn, seed = Limits(), 0, 0, first_seed
    with TemporaryDirectory() as folder:
        while drawn < lenses:
            seed += 1
            lens = any_lens(np.random.default_rng(seed))
            wanted = true_stops(lens, limits)
            if wanted is None:
                continue
            drawn += 1
            found = judged_stops(Path(folder), lens, seed, "mosaic" if seed % 3 == 0 else "fits", limits)
            right += found == wanted
            print(f"{drawn:3d}  seed {seed}: from f/{wanted[0]} and f/{wanted[1]}, judged f/{found[0]} and f/{found[1]}",
                  "" if found == wanted else "  WRONG", flush=True)  # fmt: skip
    print(f"Widest good stop right, broadband and narrowband both, in {right} of {drawn}.")


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:3]))
