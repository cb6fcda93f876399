"""How dark a sky is, told by a meter, by class, or by the faintest star."""

from typing import Literal

import numpy as np

from widedusk.core.errors import Checks

# Nine-step dark-sky class (Bortle 2001, Sky & Telescope) to V mag/arcsec² at the zenith: a rough table, from memory.
CLASS_MAG = {1: 21.95, 2: 21.8, 3: 21.5, 4: 20.9, 5: 19.9, 6: 19.2, 7: 18.5, 8: 18.0, 9: 17.3}

SkyWords = Literal["in a town", "at the edge of a town", "a village", "dark country", "far from every lamp"]
SKIES: dict[SkyWords, float] = {  # by the same table
    "in a town": CLASS_MAG[7],
    "at the edge of a town": CLASS_MAG[5],
    "a village": CLASS_MAG[4],
    "dark country": CLASS_MAG[3],
    "far from every lamp": CLASS_MAG[2],
}


def sky_of_class(step: int) -> float:
    """Zenith brightness of a class. Raises InvalidInput outside 1 to 9."""
    checks = Checks()
    checks.within("sky_class", step, 1, 9)
    checks.done()
    return CLASS_MAG[step]


def faintest_star(sky_mag: float) -> float:
    """Naked-eye limit: 7.93 - 5 log10(10^(4.316 - mu/5) + 1); from memory, after Schaefer 1990."""
    return float(7.93 - 5.0 * np.log10(10.0 ** (4.316 - sky_mag / 5.0) + 1.0))


def sky_of_faintest_star(magnitude: float) -> float:
    """The sky in which this star is just seen; inverse of `faintest_star`. Raises InvalidInput for stars nobody tells apart."""
    checks = Checks()
    checks.within("faintest_star", magnitude, 2.0, 6.8, "mag")
    checks.done()
    return float(21.58 - 5.0 * np.log10(10.0 ** (1.586 - magnitude / 5.0) - 1.0))
