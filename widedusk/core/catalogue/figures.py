"""Bright stars by name, and the lines people join them by: made by docs/make_figures.py from Hipparcos and Roman's boundaries.

A figure joins two of a constellation's brightest stars where no third is nearer to both (Toussaint 1980). It is our own drawing,
not anybody's published one.
"""

import csv
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np

from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats


@dataclass(frozen=True)
class BrightStar:
    """ICRS at epoch J2000.0, degrees; Hipparcos magnitude Hp. name: empty where people have none for it."""

    hip: int
    name: str
    constellation: str
    ra_deg: float
    dec_deg: float
    magnitude: float

    @property
    def spoken(self) -> str:
        """How it is called in a sentence."""
        return self.name or f"the {self.magnitude:.1f} mag star in {full_names()[self.constellation]}"


@dataclass(frozen=True)
class Figures:
    """Stars from the brightest, their unit vectors (n, 3), the lines as pairs of places among them, and where names stand.

    labels: name of the constellation, ICRS right ascension and declination in degrees, within its own borders.
    """

    stars: tuple[BrightStar, ...]
    vectors: Floats
    lines: tuple[tuple[int, int], ...]
    labels: tuple[tuple[str, float, float], ...]


def _table(name: str) -> list[dict[str, str]]:
    with (resources.files(__package__) / name).open(encoding="utf-8") as opened:
        return list(csv.DictReader(opened))


@cache
def full_names() -> dict[str, str]:
    """Names of the constellations by their abbreviation."""
    found = {row["constellation"]: row["name"] for row in _table("constellations.csv")}
    return {**found, "Ser": "Serpens"}  # the one that lies in two pieces


@cache
def figures() -> Figures:
    """All of them, read once."""
    found = tuple(
        BrightStar(
            int(row["hip"]), row["name"], row["constellation"], float(row["ra_deg"]), float(row["dec_deg"]), float(row["hp_mag"])
        )
        for row in _table("bright_stars.csv")
    )
    at = {one.hip: place for place, one in enumerate(found)}
    ra, dec = (np.radians([getattr(one, name) for one in found]) for name in ("ra_deg", "dec_deg"))
    lines = tuple((at[int(row["from_hip"])], at[int(row["to_hip"])]) for row in _table("figures.csv"))
    labels = tuple(
        (full_names()[row["constellation"]], float(row["ra_deg"]), float(row["dec_deg"])) for row in _table("labels.csv")
    )
    return Figures(found, unit_vectors(ra, dec), lines, labels)
