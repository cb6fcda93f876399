"""What a chart of the sky around a place shows: stars by magnitude and colour, objects at their real extent and angle."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.catalogue.catalogue import Entry, catalogue
from widedusk.core.catalogue.stars import stars
from widedusk.core.errors import Checks
from widedusk.core.framing.frame import ra_dec_deg
from widedusk.core.scene import KINDS
from widedusk.core.sky.places import unit_vectors

MOST_STARS = 12_000
MOST_OBJECTS = 120
SMALLEST_SHARE = 0.004  # of the field: a smaller object is no more than a dot


@dataclass(frozen=True)
class Chart:
    """ICRS degrees, from the brightest star and from the largest object. faintest: magnitude G of the faintest star shown."""

    ra_deg: NDArray[np.float64]
    dec_deg: NDArray[np.float64]
    magnitude: NDArray[np.float64]
    colour: NDArray[np.float64]  # BP − RP; NaN: not known
    faintest: float
    objects: tuple[Entry, ...]


def chart(ra_deg: float, dec_deg: float, field_deg: float) -> Chart:
    """The sky within half a field of a place. Raises InvalidInput."""
    checks = Checks()
    checks.within("ra_deg", ra_deg, 0, 360, "°")
    checks.within("dec_deg", dec_deg, -90, 90, "°")
    checks.within("field_deg", field_deg, 0.2, 120, "°")
    checks.done()
    towards = unit_vectors(np.radians(ra_deg), np.radians(dec_deg))
    near = stars().within(towards, float(np.radians(field_deg / 2.0)), MOST_STARS)
    ra, dec = ra_dec_deg(near.vectors)
    book = catalogue()
    seen = (book.icrs @ towards >= np.cos(np.radians(field_deg / 2.0))) & (book.extent_deg >= SMALLEST_SHARE * field_deg)
    seen &= ~book.stands_aside & (book.extent_deg <= field_deg)
    found = np.flatnonzero(seen & (book.kind != KINDS.index("constellation")))
    largest = found[np.argsort(-book.extent_deg[found], kind="stable")][:MOST_OBJECTS]
    objects = tuple(book.entries[place] for place in largest)
    return Chart(ra, dec, near.magnitude, near.colour, float(near.magnitude.max(initial=0.0)), objects)
