"""Hop from star to star: the cheapest path over a graph in which no step is longer than the finder shows.

    begin ──(how easily a star is known)──> named bright stars ──> … ──> stars the finder shows ──> the middle of the frame

A step costs its share of what the finder sees, more for a faint star at its end, and more for one with equals beside it: what
cannot be told from its neighbours leads astray. The path is Dijkstra's, by scipy.sparse.csgraph.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra, minimum_spanning_tree
from scipy.spatial import cKDTree

from widedusk.core.catalogue.figures import figures
from widedusk.core.catalogue.stars import stars, v_magnitude
from widedusk.core.choices import Finder
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.sky.time import Floats

# What each shows: the longest step in degrees and how much fainter than the eye. Common practice, no source; a hop of the eye is
# a spread hand, a finder of 50 mm shows 6°, binoculars of 50 mm 6.5°, a frame its short side.
STEP_DEG: dict[Finder, float] = {"eye": 20.0, "finder": 4.5, "binoculars": 5.0, "frame": 0.0}
BEYOND_EYE_MAG: dict[Finder, float] = {"eye": -0.7, "finder": 3.0, "binoculars": 3.5, "frame": 4.0}
FAINTEST = 6.5  # of the stars that are hopped over
EASY_MAG = 3.0  # a star of a figure from which one may begin
AWAY_DEG = 50.0  # farther from the frame nobody begins
A_STEP, FULL_REACH, FAINT, EQUALS, HARD_BEGIN = 1.0, 1.5, 0.18, 0.5, 0.35  # weights, our own
EQUAL_MAG = 0.6


@dataclass(frozen=True)
class Path:
    """Unit vectors (n, 3) of the stars from the first to the last, without the frame's middle; their V magnitudes and cost.

    widest_deg: the longest step, the one into the frame included.
    """

    vectors: Floats
    magnitude: Floats
    cost: float
    widest_deg: float


def naked_eye_mag(sky_mag: float) -> float:
    """The faintest star an eye sees at the zenith under a sky, V mag/arcsec².

    Source: Schaefer 1990, PASP 102, 212, in the short form m = 7.93 - 5 log10(1 + 10^(4.316 - B/5)), from memory.
    """
    return float(7.93 - 5.0 * np.log10(1.0 + 10.0 ** (4.316 - sky_mag / 5.0)))


@cache
def seen_stars() -> tuple[Floats, Floats]:
    """Unit vectors and V magnitudes of stars to 6.5; G stands in for V where a colour is not known."""
    found = stars()
    bright = found.magnitude < FAINTEST + 0.5
    v = v_magnitude(found.magnitude[bright], found.colour[bright])
    v = np.where(np.isfinite(v), v, found.magnitude[bright])
    kept = v <= FAINTEST
    return found.vectors[bright][kept], v[kept]


@cache
def _begins() -> Floats:
    """Unit vectors of the stars that everybody finds: bright ones of the figures."""
    book = figures()
    easy = [place for place, one in enumerate(book.stars) if one.magnitude <= EASY_MAG]
    return book.vectors[easy]


@dataclass(frozen=True)
class Graph:
    """Nodes: 0 the beginning, 1 the frame's middle, then stars. Weighted steps as a sparse matrix (from, to)."""

    vectors: Floats  # of the stars
    magnitude: Floats
    steps: csr_array


def graph(goal: Floats, reach_deg: float, faintest: float, up: NDArray[np.bool_] | None = None) -> Graph | None:
    """All steps within a reach about a goal; None where no star is bright enough. up: which of all stars to 6.5 can be seen."""
    vectors, magnitude = seen_stars()
    near = (vectors @ goal > np.cos(np.radians(AWAY_DEG))) & (magnitude <= faintest)
    if up is not None:
        near &= up
    vectors, magnitude = vectors[near], magnitude[near]
    if not magnitude.size:
        return None
    tree = cKDTree(vectors)
    chord = 2.0 * np.sin(np.radians(reach_deg) / 2.0)
    pairs = tree.query_pairs(chord, output_type="ndarray")
    reach = np.radians(reach_deg)
    equals = _equals(tree, magnitude, chord / 4.0)
    hard = FAINT * np.maximum(magnitude, 0.0) + EQUALS * equals
    apart = 2.0 * np.arcsin(np.linalg.norm(vectors[pairs[:, 0]] - vectors[pairs[:, 1]], axis=1) / 2.0) / reach
    both = np.concatenate([pairs, pairs[:, ::-1]])
    weights = A_STEP + FULL_REACH * np.tile(apart, 2) + hard[both[:, 1]]
    last = np.array(tree.query_ball_point(goal, chord), dtype=int)
    to_goal = A_STEP + FULL_REACH * 2.0 * np.arcsin(np.linalg.norm(vectors[last] - goal, axis=1) / 2.0) / reach
    gap, _ = cKDTree(_begins()).query(vectors, distance_upper_bound=1e-4)
    first = np.flatnonzero(np.isfinite(gap))
    rows = np.concatenate([both[:, 0] + 2, last + 2, np.zeros(first.size, dtype=int)])
    columns = np.concatenate([both[:, 1] + 2, np.ones(last.size, dtype=int), first + 2])
    values = np.concatenate([weights, to_goal, 1e-6 + HARD_BEGIN * np.maximum(magnitude[first] + 1.5, 0.0)])
    size = magnitude.size + 2
    return Graph(vectors, magnitude, csr_array((values, (rows, columns)), shape=(size, size)))


def _equals(tree: cKDTree, magnitude: Floats, chord: float) -> Floats:
    """How many stars of about the same light stand beside each, up to three."""
    pairs = tree.query_pairs(chord, output_type="ndarray")
    alike = pairs[np.abs(magnitude[pairs[:, 0]] - magnitude[pairs[:, 1]]) < EQUAL_MAG]
    return np.asarray(np.minimum(np.bincount(alike.ravel(), minlength=magnitude.size), 3) / 3.0)


def shortest(found: Graph) -> tuple[list[int], float]:
    """Stars of the cheapest path, as places among those of the graph, and its cost; empty and infinite where there is none."""
    cost, before = dijkstra(found.steps, indices=0, return_predecessors=True)
    if not np.isfinite(cost[1]):
        return [], float("inf")
    path, at = [], int(before[1])
    while at > 1:
        path.append(at - 2)
        at = int(before[at])
    return path[::-1], float(cost[1])


def reach_of(finder: Finder, short_side_deg: float) -> float:
    """The longest step, degrees: of a frame nine tenths of its short side, so that both stars are in it."""
    return 0.9 * short_side_deg if finder == "frame" else STEP_DEG[finder]


def hop(goal: Floats, finder: Finder, short_side_deg: float, eye_mag: float, up: NDArray[np.bool_] | None = None) -> Path:
    """The path to a direction. eye_mag: what the naked eye sees under this sky.

    Raises InvalidInput where no path has steps so short; it tells how long a step would do.
    """
    reach = min(reach_of(finder, short_side_deg), STEP_DEG["eye"])
    faintest = min(eye_mag + BEYOND_EYE_MAG[finder], FAINTEST)
    found = graph(goal, reach, faintest, up)
    places, cost = shortest(found) if found is not None else ([], float("inf"))
    if found is None or not places:
        raise InvalidInput([Fault("finder", finder, _no_path(goal, finder, reach, short_side_deg, eye_mag, up))])
    whole = np.concatenate([found.vectors[places], goal[None]])
    widest = 2.0 * np.arcsin(np.linalg.norm(np.diff(whole, axis=0), axis=1).max() / 2.0)
    return Path(found.vectors[places], found.magnitude[places], cost, float(np.degrees(widest)))


def _no_path(
    goal: Floats, finder: Finder, reach: float, short_side_deg: float, eye_mag: float, up: NDArray[np.bool_] | None
) -> str:
    needed = shortest_reach(goal, min(eye_mag + BEYOND_EYE_MAG[finder], FAINTEST), up)
    others: list[Finder] = ["frame", "finder", "binoculars", "eye"]
    do = [
        one
        for one in others
        if one != finder and shortest_reach(goal, min(eye_mag + BEYOND_EYE_MAG[one], FAINTEST), up) <= reach_of(one, short_side_deg)
    ]
    names = {"eye": "the bare eye", "finder": "a finder", "binoculars": "binoculars", "frame": "test pictures"}
    other = f" With {names[do[0]]} there is a way." if do else ""
    if not np.isfinite(needed):
        return f"No bright star stands near this frame to begin from.{other or ' Go by compass, or by test picture.'}"
    return f"No path of stars has steps of {reach:.1f}° or less; steps of {np.ceil(needed * 10) / 10:.1f}° would do.{other}"


def shortest_reach(goal: Floats, faintest: float, up: NDArray[np.bool_] | None = None) -> float:
    """The least step, degrees, with which a way from a star everybody finds exists: the widest gap on the spanning tree's path."""
    found = graph(goal, STEP_DEG["eye"], faintest, up)
    if found is None:
        return float("inf")
    size = found.magnitude.size
    tree = cKDTree(np.concatenate([goal[None], found.vectors]))
    chord = 2.0 * np.sin(np.radians(STEP_DEG["eye"]) / 2.0)
    gaps = tree.sparse_distance_matrix(tree, chord, output_type="coo_matrix").tocsr()
    spanning = minimum_spanning_tree(gaps)
    both = (spanning + spanning.T).tocsr()
    widest = np.full(size + 1, np.inf)
    widest[0] = 0.0
    waiting = [0]
    while waiting:
        here = waiting.pop()
        for place in range(both.indptr[here], both.indptr[here + 1]):
            there = both.indices[place]
            if not np.isfinite(widest[there]):
                widest[there] = max(widest[here], both.data[place])
                waiting.append(int(there))
    gap, _ = cKDTree(_begins()).query(found.vectors, distance_upper_bound=1e-4)
    ends = widest[1:][np.isfinite(gap)]
    least = ends.min(initial=np.inf)
    return float(np.degrees(2.0 * np.arcsin(min(least, 2.0) / 2.0))) if np.isfinite(least) else float("inf")
