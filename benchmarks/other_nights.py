"""How often runs drawn by other physics than our own are judged rightly: python -m benchmarks.other_nights [first] [last]

Thresholds were set by even seeds; only odd ones are told here. Each is drawn, read and measured once (some ten seconds) and kept.
"""

import sys
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise

import numpy as np

from tests.outside.nights.drawing import GOOD
from tests.outside.nights.score import Outcome, score
from tests.outside.nights.series import series


def one(seed: int) -> Outcome:
    return score(series(seed))


def told(outcomes: list[Outcome]) -> None:
    count, right = len(outcomes), sum(outcome.right for outcome in outcomes)
    print(f"likeliest cause right or not known: {right} of {count}, {100 * right / count:.1f} %")
    print(f"wrong and at least 90 % sure: {sum(outcome.surely_wrong for outcome in outcomes)}")
    frames, kept = (sum(getattr(outcome, name) for outcome in outcomes) for name in ("frames", "frames_right"))
    print(f"kept or culled rightly: {100 * kept / frames:.2f} % of {frames} frames")
    clean = [outcome for outcome in outcomes if outcome.causes == (GOOD,)]
    print(f"cautions in clean runs: {sum(not outcome.right for outcome in clean)} of {len(clean)}")
    lost = sum(outcome.lost for outcome in outcomes)
    print(f"capped frames kept: {sum(outcome.caps_kept for outcome in outcomes)}; clean runs culled for the most part: {lost}")
    stated = [(sure, cause in outcome.causes) for outcome in outcomes for cause, sure in outcome.stated]
    for low, high in pairwise((0.0, 0.6, 0.7, 0.8, 0.9, 1.0)):
        here = [ok for sure, ok in stated if low <= sure < high]
        if here:
            print(f"  stated at {100 * low:.0f} to {100 * high:.0f} %: {sum(here)} of {len(here)} right")
    off: dict[str, list[float]] = defaultdict(list)
    for outcome in outcomes:
        for name, sigmas in outcome.off.items():
            off[name] += sigmas
    for name, sigmas in off.items():
        size = np.abs(sigmas)
        within = [f"{100 * np.mean(size < limit):.0f} % within {limit} sigma" for limit in (1, 2)]
        print(f"  {name}: {size.size} figures, {' and '.join(within)}")
    table: dict[str, Counter[str]] = defaultdict(Counter)
    for outcome in outcomes:
        table[" and ".join(outcome.causes)][outcome.said if outcome.right else f"{outcome.said.upper()} ({outcome.seed})"] += 1
    for causes, row in sorted(table.items()):
        print(f"  {causes:28} " + ", ".join(f"{said} {many}" for said, many in row.most_common()))


def main() -> None:
    first, last = ([int(given) for given in sys.argv[1:]] + [0, 600][len(sys.argv) - 1 :])[:2]
    with ProcessPoolExecutor(2) as pool:
        told(list(pool.map(one, range(first | 1, last, 2))))


if __name__ == "__main__":
    main()
