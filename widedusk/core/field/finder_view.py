"""What one sees when one looks for the next star: a round piece of sky, up where the zenith is, and the step to make."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.framing.hop import seen_stars
from widedusk.core.framing.standing import standing
from widedusk.core.framing.ways import Way
from widedusk.core.scene import Spot
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats

MOST_STARS = 60
MARGIN = 1.5  # how much wider than the step the piece of sky is
LEAST_DEG, MOST_DEG = 7.0, 70.0


@dataclass(frozen=True)
class FinderStar:
    """In shares of the radius, x right and y down from the middle."""

    x: float
    y: float
    magnitude: float


@dataclass(frozen=True)
class FinderView:
    """Stars around a step; across_deg: of the whole piece. from_, to: ends of the step; names of both."""

    across_deg: float
    stars: tuple[FinderStar, ...]
    begin: FinderStar
    end: FinderStar
    begin_name: str
    end_name: str


def _on_the_plane(altitude_deg: Floats, azimuth_deg: Floats, middle: Floats) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """x right and y down, in radians on the plane that touches the sky at the middle, zenith up; and what lies before it."""
    azimuth, altitude = np.radians(azimuth_deg), np.radians(altitude_deg)
    towards = unit_vectors(-azimuth, altitude)  # azimuth grows to the right, as longitude grows to the left
    zenith = np.array([0.0, 0.0, 1.0])
    right = np.cross(middle, zenith)
    right = right / np.linalg.norm(right)
    up = np.cross(right, middle)
    ahead = towards @ middle
    with np.errstate(divide="ignore", invalid="ignore"):
        return towards @ right / ahead, -(towards @ up) / ahead, ahead > 0.2


def finder_views(way: Way, spot: Spot, mjd: float) -> tuple[FinderView, ...]:
    """One for each step along the path of a way, as it stands at a moment; none for a way without a path."""
    points = [unit_vectors(np.radians(one.ra_deg), np.radians(one.dec_deg)) for one in way.path]
    if len(points) < 2:
        return ()
    stars, magnitudes = seen_stars()
    stood = standing(spot, mjd, np.concatenate([np.array(points), stars]))
    azimuth, altitude = np.radians(stood.azimuth_deg), np.radians(stood.altitude_deg)
    directions = unit_vectors(-azimuth, altitude)
    found = []
    for step in range(len(points) - 1):
        middle = directions[step] + directions[step + 1]
        middle = middle / np.linalg.norm(middle)
        apart = float(np.degrees(np.arccos(np.clip(directions[step] @ directions[step + 1], -1.0, 1.0))))
        across = float(np.clip(apart * MARGIN, LEAST_DEG, MOST_DEG))
        x, y, ahead = _on_the_plane(stood.altitude_deg, stood.azimuth_deg, middle)
        radius = np.tan(np.radians(across / 2.0))
        x, y = x / radius, y / radius
        inside = np.flatnonzero((x**2 + y**2 <= 1.0) & ahead)
        inside = inside[inside >= len(points)]
        brightest = inside[np.argsort(magnitudes[inside - len(points)], kind="stable")][:MOST_STARS]

        def at(place: int, magnitude: float, x: Floats = x, y: Floats = y) -> FinderStar:
            return FinderStar(round(float(x[place]), 3), round(float(y[place]), 3), round(magnitude, 1))

        found.append(
            FinderView(
                round(across, 1),
                tuple(at(int(place), float(magnitudes[place - len(points)])) for place in brightest),
                at(step, 0.0),
                at(step + 1, 0.0),
                way.path[step].name,
                way.path[step + 1].name,
            )
        )
    return tuple(found)
