"""Four ways from an untouched tracker to the frame: by a naked-eye star, by hopping, by compass and inclinometer, by test picture.

Each is worked out whole, for one moment at one spot, so that they can be compared by their steps and by how far off they leave
the frame. What a hand, a compass and a finder are good for is told as such: common practice, no source.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from scipy.spatial import cKDTree

from widedusk.core.catalogue.figures import BrightStar, figures
from widedusk.core.choices import Choices, ComesAlong, Finder, WayKey
from widedusk.core.errors import InvalidInput
from widedusk.core.framing.frame import Frame, ra_dec_deg
from widedusk.core.framing.hop import STEP_DEG, hop, naked_eye_mag, reach_of, seen_stars
from widedusk.core.framing.nudge import Nudge, axes_words, nudge, side_words
from widedusk.core.framing.standing import Standing, bearing, clock_words, compass_words, hand_words, pace, standing
from widedusk.core.grounds.compass import Needle, needle
from widedusk.core.kit.parts import Support
from widedusk.core.scene import Spot
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Limit, Quantity, Verdict, Working

# How far off each leaves the frame. Common practice, no source: a hand turns 5 % too far or too short, a star is centred within a
# twentieth of the frame, a needle beside metal is 4° off, a phone on a lens is level within 0.5°.
HAND_SHARE, CENTRED_FRAMES, COMPASS_DEG, LEVEL_DEG = 0.05, 0.05, 4.0, 0.5
# A finder beside the camera looks past it by this much; the eye along the lens by more; a frame not at all.
BESIDE_DEG: dict[Finder, float] = {"eye": 2.0, "finder": 0.5, "binoculars": 1.5, "frame": 0.0}
LOWEST_DEG = 12.0  # of a star one centres: lower it swims
FAR_BELOW_EYE = 1.5  # a star that is to be recognised alone is so much brighter than the faintest seen
ONE_MOVE_DEG = 40.0
GUIDES_MAG = 2.6  # named stars as bright as this are known, and others are found from them
SAME_STAR = 2e-4  # radians: what a bright star has moved since J2000.0, and more


@dataclass(frozen=True)
class Waypoint:
    """A place on the way, ICRS degrees, and what stands there."""

    ra_deg: float
    dec_deg: float
    name: str


@dataclass(frozen=True)
class Way:
    """steps: what to do, in order. error_deg: how far off it leaves the frame, about. path: drawn on the chart."""

    key: WayKey
    name: str
    steps: tuple[str, ...]
    error_deg: float | None  # none: this way leads nowhere here
    path: tuple[Waypoint, ...]
    verdict: Verdict


@dataclass(frozen=True)
class Search:
    """What all four begin with: the frame that is wanted, where one stands, when, and with what one looks."""

    wanted: Frame
    spot: Spot
    mjd: float
    evening: date
    focal_mm: float
    support: Support
    finder: Finder

    @property
    def goal(self) -> Floats:
        return unit_vectors(np.radians(self.wanted.ra_deg), np.radians(self.wanted.dec_deg))

    @property
    def short_deg(self) -> float:
        return min(self.wanted.width_deg, self.wanted.height_deg)

    @property
    def eye_mag(self) -> float:
        return naked_eye_mag(self.spot.sky_mag)

    def frames(self, degrees: float) -> float:
        return degrees / self.short_deg


def _error(search: Search, parts: tuple[tuple[str, float], ...]) -> tuple[float, Working]:
    """Parts of an error that have nothing to do with one another, and their working."""
    total = float(np.hypot.reduce([one for _, one in parts]))
    working = Working(
        "error",
        "How far off it leaves the frame",
        "σ = √(Σ σᵢ²)",
        tuple(Quantity(name, value, "°", decimals=2) for name, value in parts),
        Quantity("About", total, "°", "σ", 2),
        "What a hand, a needle and a finder are good for: common practice, no source",
        "common practice",
        f"{search.frames(total):.2f} of the frame’s short side.",
    )
    return total, working


def _off_words(search: Search, error_deg: float) -> str:
    frames = search.frames(error_deg)
    if frames <= 0.15:
        return "It leaves you on the frame, or nearly."
    if frames <= 0.5:
        return f"Reckon on {error_deg:.1f}° off: what you want is in the picture, not yet in its place."
    return f"Reckon on {error_deg:.1f}° off, {frames:.1f} frames: look with a test picture before you believe it."


def _figures(steps: int, error: float, search: Search) -> tuple[Quantity, ...]:
    return (
        Quantity("Steps", steps, decimals=0),
        Quantity("Leaves you off by about", error, "°", decimals=2, working="error"),
        Quantity("That is", search.frames(error), "frames", decimals=2, working="error"),
    )


def _nowhere(key: WayKey, name: str, topic: str, why: str, advice: str = "") -> Way:
    return Way(key, name, (), None, (), Verdict(topic, "stop", why, "what can be seen from here", advice))


def begin_star(search: Search) -> tuple[BrightStar, Standing] | None:
    """The bright star nearest the frame that the eye knows and that stands clear; none where there is none within a move."""
    book = figures()
    bright = np.array([one.magnitude for one in book.stars]) <= search.eye_mag - FAR_BELOW_EYE - 1.0
    stood = standing(search.spot, search.mjd, book.vectors)
    good = bright & stood.clear.astype(bool) & (stood.altitude_deg > LOWEST_DEG)
    near = book.vectors @ search.goal
    good &= near > np.cos(np.radians(ONE_MOVE_DEG))
    if not good.any():
        return None
    at = int(np.flatnonzero(good)[near[good].argmax()])
    return book.stars[at], standing(search.spot, search.mjd, book.vectors[at])


def _move_working(move: Nudge, from_name: str) -> Working:
    return Working(
        "move",
        "The move",
        "Δα, Δδ between the two places, about the pole of date",
        (Quantity("From", text=from_name), Quantity("Apart", move.apart_deg, "°", decimals=2)),
        Quantity("Move", text=axes_words(move)),
        "Spherical trigonometry; precession IAU 2006 through ERFA",
        "definition",
    )


def _seen_from(search: Search, vector: Floats) -> str:
    """Where a star without a name is, seen from one with a name that stands clear; empty where none does."""
    book = figures()
    stood = standing(search.spot, search.mjd, np.concatenate([vector[None], book.vectors]))
    named = np.array([bool(star.name) and star.magnitude <= GUIDES_MAG for star in book.stars])
    near = np.where(named & stood.clear[1:].astype(bool), book.vectors @ vector, -1.0)
    best = int(near.argmax())
    if near[best] < np.cos(np.radians(ONE_MOVE_DEG)):
        return ""
    apart, angle = bearing(stood, best + 1, 0)
    return f", {apart:.0f}° ({hand_words(apart)}) from {book.stars[best].name} at {clock_words(angle)}"


def by_star(search: Search) -> Way:
    """Centre a star the eye sees, focus on it, then offset."""
    name, topic = "From a bright star", "Bright star"
    found = begin_star(search)
    if found is None:
        return _nowhere("star", name, topic, "No bright star stands clear within a move of this frame at that time.")
    star, stood = found
    here = replace(search.wanted, ra_deg=star.ra_deg, dec_deg=star.dec_deg)
    move = nudge(here, search.wanted, search.mjd)
    frames = f"{move.apart_deg / search.short_deg:.1f} frames of {search.focal_mm:.0f} mm"
    vector = unit_vectors(np.radians(star.ra_deg), np.radians(star.dec_deg))
    beside = "" if star.name else _seen_from(search, vector)
    where = f"{compass_words(float(stood.azimuth_deg[0]))}, {float(stood.altitude_deg[0]):.0f}° up"
    steps = (
        f"Find {_shown(star.spoken)}, {where}{beside}.",
        "Bring it to the middle of the live view and focus on it.",
        f"Turn {axes_words(move)}: {frames}.",
        f"In the live view, as the camera is mounted, the frame lies {side_words(move)}.",
        "Take a test picture.",
    )
    error, working = _error(
        search, (("Hand, 5 % of the move", HAND_SHARE * move.apart_deg), ("Centring the star", CENTRED_FRAMES * search.short_deg))
    )
    verdict = Verdict(
        topic,
        "go" if search.frames(error) <= 0.5 else "care",
        f"Centre {star.spoken}, then turn {axes_words(move)}.",
        f"the brightest help within {move.apart_deg:.1f}°",
        _off_words(search, error),
        (Quantity("Away", move.apart_deg, "°", decimals=1, working="move"), *_figures(len(steps), error, search)),
        workings=(_move_working(move, star.spoken), working),
    )
    path = (Waypoint(star.ra_deg, star.dec_deg, star.spoken), Waypoint(search.wanted.ra_deg, search.wanted.dec_deg, "the frame"))
    return Way("star", name, steps, error, path, verdict)


def _called(vector: Floats, magnitude: float) -> str:
    """What a star on the path is called."""
    book = figures()
    gap, at = cKDTree(book.vectors).query(vector)
    return book.stars[int(at)].spoken if gap < SAME_STAR else f"a {magnitude:.1f} mag star"


def _shown(star: str) -> str:
    """A named star with its magnitude beside it; the others are called by theirs."""
    found = next((one for one in figures().stars if one.name and one.name == star), None)
    return f"{star}, magnitude {found.magnitude:.1f}" if found else star


def _towards(stood: Standing, start: int, end: int) -> str:
    """A named bright star in about the same direction as the step, to look along; empty where none is."""
    book = figures()
    places = len(stood.altitude_deg) - len(book.stars)
    _, way = bearing(stood, start, end)
    best, found = 12.0, ""
    for place, star in enumerate(book.stars):
        if not star.name or star.magnitude > 2.6 or not bool(stood.clear[places + place]):
            continue
        apart, angle = bearing(stood, start, places + place)
        off = abs((angle - way + 180.0) % 360.0 - 180.0)
        if 4.0 < apart < 70.0 and off < best:
            best, found = off, star.name
    return f", towards {found}" if found else ""


def by_hop(search: Search) -> Way:
    """From star to star, no step longer than the finder shows."""
    name, topic = "Hop over stars", "Hop"
    seen, _ = seen_stars()
    stood_all = standing(search.spot, search.mjd, seen)
    try:
        path = hop(search.goal, search.finder, search.short_deg, search.eye_mag, stood_all.clear.astype(bool))
    except InvalidInput as caught:
        return _nowhere("hop", name, topic, caught.faults[0].message)
    names = [_called(vector, magnitude) for vector, magnitude in zip(path.vectors, path.magnitude, strict=True)]
    names.append("the middle of the frame")
    stood = standing(search.spot, search.mjd, np.concatenate([path.vectors, search.goal[None], figures().vectors]))
    where = f"{compass_words(float(stood.azimuth_deg[0]))}, {float(stood.altitude_deg[0]):.0f}° up"
    named = any(star.name == names[0] for star in figures().stars)
    beside = "" if named else _seen_from(search, path.vectors[0])
    steps = [f"Find {_shown(names[0])}, {where}{beside}."]
    last = 0.0
    for place in range(len(names) - 1):
        last, angle = bearing(stood, place, place + 1)
        steps.append(
            f"{last:.1f}° ({hand_words(last)}) at {clock_words(angle)}{_towards(stood, place, place + 1)}, to {names[place + 1]}."
        )
    error, working = _error(
        search,
        (
            ("Hand, 5 % of the last step", HAND_SHARE * last),
            ("The finder looks past the camera by", BESIDE_DEG[search.finder]),
            ("Centring", CENTRED_FRAMES * search.short_deg),
        ),
    )
    reach = min(reach_of(search.finder, search.short_deg), STEP_DEG["eye"])
    stars = Working(
        "path",
        "The path",
        "least Σ (1 + 1.5 s/S + 0.18 V + 0.5 e + begin)",
        (
            Quantity("Longest step allowed", reach, "°", "S"),
            Quantity("Faintest star the eye sees", search.eye_mag, "mag"),
            Quantity("Stars on it", len(path.magnitude), decimals=0),
        ),
        Quantity("Cost", path.cost, decimals=2),
        "Dijkstra’s path over stars to magnitude 6.5; the weights are our own; faintest star by Schaefer 1990, PASP 102, 212",
        "common practice",
        "s: length of a step; V: magnitude of its end; e: up to 1 for equals beside it; begin: less for the brightest.",
    )
    count = len(names) - 1
    verdict = Verdict(
        topic,
        "go" if search.frames(error) <= 0.5 else "care",
        f"{count} step{'s' if count > 1 else ''} from {names[0]}, the longest {path.widest_deg:.1f}°.",
        f"steps of {reach:.1f}° or less",
        _off_words(search, error),
        (Quantity("Longest step", path.widest_deg, "°", working="path"), *_figures(len(steps), error, search)),
        (Limit("Step", "at most", Quantity("Step", reach, "°", working="path"), True),),
        (stars, working),
    )
    ra, dec = ra_dec_deg(np.concatenate([path.vectors, search.goal[None]]))
    points = tuple(Waypoint(float(a), float(d), told) for a, d, told in zip(ra, dec, names, strict=True))
    return Way("hop", name, tuple(steps), error, points, verdict)


def by_compass(search: Search) -> Way:
    """Azimuth and altitude of the middle, for a compass and something that measures slopes."""
    name, topic = "Compass and inclinometer", "Compass"
    stood = standing(search.spot, search.mjd, search.goal)
    altitude, azimuth = float(stood.altitude_deg[0]), float(stood.azimuth_deg[0])
    if not bool(stood.clear[0]):
        return _nowhere("compass", name, topic, f"The frame’s middle is not in view at {search.spot.clock(search.mjd)}.")
    held: Needle = needle(search.spot.latitude_deg, search.spot.longitude_deg, search.spot.height_m, search.evening)
    magnetic = (azimuth - held.declination_deg) % 360.0
    climbs, turns = pace(search.spot, search.mjd, search.goal)
    clock = search.spot.clock(search.mjd)
    steps = (
        f"At {clock} turn the camera to {azimuth:.0f}° true, {magnetic:.0f}° on a magnetic needle.",
        f"Raise it to {altitude:.1f}°, read on a phone or inclinometer laid along the lens.",
        f"Every minute later: {climbs:+.2f}° of altitude, {turns:+.2f}° of azimuth.",
        "Take a test picture.",
    )
    error, working = _error(
        search, (("Needle, on the sky", COMPASS_DEG * float(np.cos(np.radians(altitude)))), ("Level", LEVEL_DEG))
    )
    place = Working(
        "place",
        "Where the middle stands",
        "h, A from hour angle and declination; h with refraction; magnetic = A − D",
        (
            Quantity("Right ascension", search.wanted.ra_deg / 15, "h", decimals=3),
            Quantity("Declination", search.wanted.dec_deg, "°", decimals=2),
            search.spot.moment("At", search.mjd),
            Quantity("Magnetic declination, east positive", held.declination_deg, "°", "D", 1),
        ),
        Quantity("Azimuth and altitude", text=f"{azimuth:.1f}°, {altitude:.1f}°"),
        "Spherical trigonometry; Bennett 1982, J. Navigation 35, 255; WMM2025",
        "published",
    )
    verdict = Verdict(
        topic,
        "care",
        f"At {clock}: {azimuth:.0f}° true ({magnetic:.0f}° magnetic), {altitude:.1f}° up.",
        "the needle beside a metal tracker",
        _off_words(search, error),
        (
            Quantity("Azimuth, true", azimuth, "°", decimals=1, working="place"),
            Quantity("Azimuth, magnetic", magnetic, "°", decimals=1, working="place"),
            Quantity("Altitude", altitude, "°", decimals=1, working="place"),
            *_figures(len(steps), error, search),
        ),
        workings=(place, working),
    )
    return Way("compass", name, steps, error, (), verdict)


def by_picture(search: Search) -> Way:
    """A short picture, solved, and the nudge it tells; twice."""
    start = float(np.hypot(COMPASS_DEG, COMPASS_DEG))
    steps = (
        "Point the camera roughly at it; anywhere within reach will do.",
        "Take a picture of 5 to 20 s at high ISO and drop it below.",
        "Make the nudge it tells; take another.",
        "Once more, and it says “there”.",
    )
    error, working = _error(
        search, (("Hand, 5 % of a nudge of 5 % of the way", HAND_SHARE**2 * start), ("Play in the head", 0.02 * search.short_deg))
    )
    verdict = Verdict(
        "By test picture",
        "go",
        "Take a test picture; it tells where you look and the exact next nudge.",
        "stars enough to be known: 15 or so",
        _off_words(search, error),
        _figures(len(steps), error, search),
        workings=(working,),
    )
    return Way("picture", "By test picture", steps, error, (), verdict)


WAYS: tuple[tuple[WayKey, Callable[[Search], Way]], ...] = (
    ("picture", by_picture),
    ("star", by_star),
    ("hop", by_hop),
    ("compass", by_compass),
)


def ways(search: Search, along: ComesAlong) -> tuple[Way, ...]:
    """All four, worked out. along: a phone alone cannot measure a picture, so that way leads nowhere with it."""
    if along != "phone":
        return tuple(make(search) for _, make in WAYS)
    why = "A phone alone cannot measure a test picture; bring a laptop, or go where there is a connection."
    nowhere = _nowhere("picture", "By test picture", "By test picture", why)
    return (nowhere, *(make(search) for key, make in WAYS if key != "picture"))


def way_taken(choices: Choices) -> WayKey:
    """The person's own, or from a bright star where that needs pictures measured and nothing that comes along can."""
    return "star" if choices.way == "picture" and choices.comes_along == "phone" else choices.way
