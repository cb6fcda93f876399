"""What moments weighted with a star's own Gaussian make of an even trail, and the way back.

A star that moves evenly is a Gaussian drawn out to a table-top: its weighted variance (Bernstein & Jarvis 2002) exceeds the true
one, the more so the longer it is. Limits of elongation are those of the true variance, so what is measured is brought back here.
"""

from functools import cache

import numpy as np

from widedusk.core.sky.time import Floats

LONGEST = 14.0  # in standard deviations of the star


@cache
def _table() -> tuple[Floats, Floats]:
    """True excess variance of an even trail and the weighted one, both in variances of the star; rising."""
    places = np.linspace(-3.0 - LONGEST, 3.0 + LONGEST, 2001)
    lengths = np.linspace(0.0, LONGEST, 60)
    true, weighted = [], []
    for length in lengths:
        parts = (np.arange(81) + 0.5) / 81 * length - length / 2
        light = np.mean(np.exp(-0.5 * (places[None, :] - parts[:, None]) ** 2), axis=0)
        variance = 1.0 + length**2 / 12.0
        for _ in range(200):
            weight = np.exp(-0.5 * places**2 / variance) * light
            variance = 2.0 * float(np.sum(weight * places**2) / np.sum(weight))
        true.append(length**2 / 12.0)
        weighted.append(variance - 1.0)
    return np.array(true), np.maximum.accumulate(np.array(weighted))


def true_excess(weighted_excess: Floats | float) -> Floats:
    """Variance that an even trail adds, in variances of the star, from what weighted moments find. Array in, array out."""
    true, weighted = _table()
    given = np.asarray(weighted_excess, dtype=float)
    inside = np.interp(given, weighted, true)
    return np.asarray(np.where(given > weighted[-1], given * true[-1] / weighted[-1], np.maximum(inside, 0.0)))
