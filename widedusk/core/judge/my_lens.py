"""Is this lens good enough for stars, and from which stop on: what pictures at several stops say, against a person's own limits."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS
from widedusk.core.frames.lens_facts import CORNER_NAMES, CORNERS, ColourName, LensPicture, Spot
from widedusk.core.judge.limits import Limits
from widedusk.core.kit.optics import stops_between
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, joined

Fault_ = Literal["coma", "tilt", "askew", "curved"]
StoppedBy = Literal["open", "iris", "ring"]
ZONES = ZONE_COLUMNS * ZONE_ROWS
MIDDLE = ZONES // 2
SURE = 3.5  # sigmas
SOFTER = 1.1  # width against the sharpest zone's, from which a side is called soft
# What third-order coma adds across, against what it adds along beyond that: K²/6 and K²/3 for an even pupil of unit radius, whose
# rays miss by K (3u² + v², 2uv). Third-order coma as in Welford 1986, Aberrations of Optical Systems, from memory;
# the moments over a disc are integrated by us.
ROUND_OF_COMA = 0.5
FAR = 3.0  # half diagonals beyond which the middle of the coma means nothing
SHOWS = 1.06  # elongation or ratio of widths from which a fault of the field is named
OFF_MIDDLE = 0.25  # half diagonals that the middle of the coma may lie beside the picture's
FRINGES: tuple[ColourName, ...] = ("red", "blue")
HALO, PARTED_PX = 1.2, 0.7  # width against green, and px in the corner, from which a colour is worth a word. Our own
TRAILED = 1.15  # elongation of the middle from which a picture shows the tracker rather than the lens
SAME_STOP = 0.02
LAID_ROUNDS = 60  # each halves what is left, about
PLACES = tuple(
    {0: "upper ", 1: "", 2: "lower "}[zone // ZONE_COLUMNS]
    + {0: "left", 1: "left half", 2: "middle", 3: "right half", 4: "right"}[zone % ZONE_COLUMNS]
    for zone in range(ZONES)
)
SOURCE_MOMENTS = "Moments weighted with the star's own Gaussian (Bernstein & Jarvis 2002, AJ 123, 583), five by three zones"


@dataclass(frozen=True)
class Taken:
    """One picture with how it was stopped down."""

    name: str
    f_number: float
    by: StoppedBy
    picture: LensPicture


@dataclass(frozen=True)
class Worst:
    """Of one use at one stop. elongation and width (against the lens's sharpest middle) in the worst zone, and whether every zone
    keeps the limits; close: within two sigma of one, either way."""

    elongation: float
    elongation_zone: str
    width: float
    width_zone: str
    good: bool
    close: bool


@dataclass(frozen=True)
class ZoneShape:
    """A zone's typical star in all colours: widths along and across its long axis, px, and where that axis lies, degrees from right
    towards down."""

    long_px: float
    short_px: float
    angle_deg: float


@dataclass(frozen=True)
class AtStop:
    """Lengths in pixels of the file. corner_px: mean width in the corners; radial_px: how much longer their stars are away from the
    middle than around it, as a standard deviation, negative the other way; soft_px: by how much wider stars are on the softest
    side, as a standard deviation, and towards where, degrees from right towards down; red, blue: their width against green's in the
    middle; red_out, blue_out: how much further out than green they lie in the corner."""

    name: str
    f_number: float
    by: StoppedBy
    stars: int
    middle_px: float
    middle_elongation: float
    corner_px: float
    radial_px: float
    soft_px: float
    soft_deg: float
    faults: tuple[Fault_, ...]
    words: str
    red: float | None
    blue: float | None
    red_out: float | None
    blue_out: float | None
    corner_light: float | None
    spikes: int
    broad: Worst
    narrow: Worst
    trailed: bool
    zones: tuple[ZoneShape | None, ...]  # row by row from the upper left


@dataclass(frozen=True)
class JudgedLens:
    """stops from the widest. broad, narrow: f-number from which on every picture is good; none where none is."""

    stops: tuple[AtStop, ...]
    broad: float | None
    narrow: float | None
    verdict: Verdict


def _matrix(spot: Spot | None) -> Floats:
    return np.full((2, 2), np.nan) if spot is None else np.array([[spot.xx, spot.xy], [spot.xy, spot.yy]])


def _zone_places(picture: LensPicture) -> Floats:
    """Middles of the zones, half diagonals right and down of the picture's, (15, 2)."""
    half = float(np.hypot(picture.width_px, picture.height_px)) / 2
    x = ((np.arange(ZONES) % ZONE_COLUMNS + 0.5) / ZONE_COLUMNS - 0.5) * picture.width_px / half
    y = ((np.arange(ZONES) // ZONE_COLUMNS + 0.5) / ZONE_ROWS - 0.5) * picture.height_px / half
    return np.stack([x, y], axis=1)


def _tensors(picture: LensPicture, colours: Sequence[ColourName]) -> tuple[Floats, Floats]:
    """Covariance of a star that shines alike in these colours, as it would be measured, (15, 2, 2), and sigma of its mean."""
    places, parts, sigmas, middles = _zone_places(picture), [], [], []
    for name in colours:
        parts.append([_matrix(one) for one in picture.zones[name]])
        sigmas.append([np.nan if one is None else one.sigma for one in picture.zones[name]])
        away = picture.parted.get(name)
        middles.append(places * (away.stretch if away else 0.0))
    sigma = np.sqrt(np.sum(np.square(sigmas), axis=0)) / len(colours)
    return (np.array(parts[0]) if len(colours) == 1 else _laid_over(np.array(parts), np.array(middles))), sigma


def _laid_over(parts: Floats, middles: Floats) -> Floats:
    """What moments weighted with its own Gaussian make of colours that lie over each other, (15, 2, 2): a sharp core counts more
    than a wide halo. parts: covariances, (colours, 15, 2, 2); middles: (colours, 15, 2). Two Gaussians multiplied are one."""
    middle = middles.mean(axis=0)
    found = parts.mean(axis=0)
    off = middles - middle
    found = found + np.mean(off[..., :, None] * off[..., None, :], axis=0)
    known = np.isfinite(found).all(axis=(1, 2))
    parts, middles, middle, found = parts[:, known], middles[:, known], middle[known], found[known]
    for _ in range(LAID_ROUNDS):
        inverse = np.linalg.inv(parts + found)
        off = middles - middle
        light = np.exp(-0.5 * np.einsum("czi,czij,czj->cz", off, inverse, off)) * np.sqrt(np.linalg.det(inverse))
        light /= light.sum(axis=0)
        own = found @ inverse @ parts  # covariance of the product
        at = middle + np.einsum("zij,czjk,czk->czi", found, inverse, off)
        middle = np.einsum("cz,czi->zi", light, at)
        away = at - middle
        found = 2.0 * np.einsum("cz,czij->zij", light, own + away[..., :, None] * away[..., None, :])
    told = np.full((len(known), 2, 2), np.nan)
    told[known] = found
    return told


def _axes(tensors: Floats) -> tuple[Floats, Floats]:
    """Elongation and width (FWHM of the round star of the same area), each (15,)."""
    mean = (tensors[:, 0, 0] + tensors[:, 1, 1]) / 2
    spread = np.hypot((tensors[:, 0, 0] - tensors[:, 1, 1]) / 2, tensors[:, 0, 1])
    short = np.maximum(mean - spread, 0.02)
    return np.sqrt((mean + spread) / short), FWHM_PER_SIGMA * ((mean + spread) * short) ** 0.25


def colours_for(picture: LensPicture, narrow: bool) -> tuple[ColourName, ...]:
    """Broadband stars are seen in all colours that the file has; most of the narrow bands are red."""
    if narrow:
        return ("red",) if "red" in picture.zones and picture.zones["red"][MIDDLE] is not None else ("green",)
    return tuple(name for name in picture.zones if picture.zones[name][MIDDLE] is not None) or ("green",)


def _worst(picture: LensPicture, narrow: bool, sharpest_px: float, limits: Limits) -> Worst:
    tensors, sigma = _tensors(picture, colours_for(picture, narrow))
    elongation, width = _axes(tensors)
    ratio = width / sharpest_px
    mean = (tensors[:, 0, 0] + tensors[:, 1, 1]) / 2
    relative = sigma / mean  # of a variance; half of it for a width, as much for a ratio of two axes
    longest, widest = int(np.nanargmax(elongation)), int(np.nanargmax(ratio))
    good = bool(elongation[longest] <= limits.elongation and ratio[widest] <= limits.width)
    margins = (
        (elongation[longest] - limits.elongation) / (2 * elongation[longest] * relative[longest]),
        (ratio[widest] - limits.width) / (2 * ratio[widest] * relative[widest] / 2),
    )
    close = max(margins) > -1.0 if good else max(margins) < 1.0
    return Worst(float(elongation[longest]), PLACES[longest], float(ratio[widest]), PLACES[widest], good, bool(close))


@dataclass(frozen=True)
class _Field:
    radial_px: float
    soft_px: float
    soft_deg: float
    faults: tuple[Fault_, ...]
    words: str


def _field(picture: LensPicture) -> _Field:
    """What the field of shapes says of green. Stars drawn out away from one point have, as complex numbers of twice the angle, the
    square of their place against it: coefficients of 1, w and w² tell how strongly, and where that point lies. What is left, their
    mean variance, rises towards one side where the image is tilted and all around where it is curved."""
    tensors, sigma = _tensors(picture, ("green",))
    known = np.flatnonzero(np.isfinite(tensors[:, 0, 0]))
    places, tensors, sigma = _zone_places(picture)[known], tensors[known], sigma[known]
    w = places[:, 0] + 1j * places[:, 1]
    spin = (tensors[:, 0, 0] - tensors[:, 1, 1]) / 2 + 1j * tensors[:, 0, 1]
    short = (tensors[:, 0, 0] + tensors[:, 1, 1]) / 2 - np.abs(spin)
    weight = 1.0 / np.maximum(sigma, 0.02)
    design = np.stack([np.ones_like(w), w, w**2], axis=1)
    _, c1, c2 = np.linalg.lstsq(design * weight[:, None], spin * weight, rcond=None)[0]
    middle = -c1 / (2 * c2) if abs(c2) > 1e-9 else 0j
    corners = np.array([place for place, zone in enumerate(known) if zone in CORNERS])
    away = np.conj(w[corners] ** 2) / np.abs(w[corners]) ** 2
    radial = 2 * float(np.mean((spin[corners] * away).real))
    size = float(np.sign(radial) * np.sqrt(abs(radial)))
    base, noise = max(float(np.min(short)), 0.1), float(np.median(sigma))
    faults: list[Fault_] = []
    words = []
    if np.sqrt(1 + abs(radial) / base) > SHOWS and abs(radial) > 3 * noise:
        faults.append("coma")
        words.append("corners drawn out away from the middle" if radial > 0 else "corners drawn out around the middle")
        if OFF_MIDDLE < abs(middle) < FAR:
            faults.append("askew")
            words.append(f"not about the middle but a point {abs(middle):.1f} half diagonals {_heading(middle)} of it: decentred")
    drawn = np.maximum((spin * np.conj(w**2) / np.maximum(np.abs(w) ** 2, 1e-9)).real, 0.0)
    soft = _soft(places, short - ROUND_OF_COMA * 2 * drawn, weight)
    rises: tuple[tuple[float, float, Fault_, str], ...] = (
        (soft.edge, soft.edge_sigma, "tilt", f"softer towards the {_side(soft.heading)}: tilted"),
        (soft.both, soft.bent_sigma, "tilt", f"softer on two sides, {_axis(soft.along)}: tilted"),
        (soft.round, 0.0, "curved", "softer all round than in the middle: a curved field, or focus between both"),
    )
    for rise, unsure, fault, told in rises:
        if np.sqrt(1 + max(rise, 0.0) / base) > SOFTER and rise > max(5 * noise, SURE * unsure) and fault not in faults:
            faults.append(fault)
            words.append(told)
    side, heading = (soft.edge, soft.heading) if soft.edge > soft.both else (soft.both, soft.along)
    return _Field(size, float(np.sqrt(max(side, 0.0))), float(np.degrees(heading)), tuple(faults), "; ".join(words))


@dataclass(frozen=True)
class _Soft:
    """By how much the round part of a star's variance rises over the picture, px²: from one side to the other (`edge`, towards
    `heading`), on two sides along one axis (`both`, `along`), and all round (`round`); sigmas by what the fit leaves."""

    edge: float
    heading: float
    both: float
    along: float
    round: float
    edge_sigma: float
    bent_sigma: float


def _soft(places: Floats, short: Floats, weight: Floats) -> _Soft:
    """The smaller variance alone: coma makes stars wider too, but along one direction."""
    x, y = places.T
    design = np.stack([np.ones_like(x), x, y, x**2, x * y, y**2], axis=1)
    found = np.linalg.lstsq(design * weight[:, None], short * weight, rcond=None)[0]
    off = (short - design @ found) * weight
    spread = float(np.sqrt(np.sum(off**2) / max(len(off) - len(found), 1)))
    sigma = spread * np.sqrt(np.diag(np.linalg.pinv((design * weight[:, None]).T @ (design * weight[:, None]))))
    right, down = found[1:3]
    bent, towards = np.linalg.eigh(np.array([[found[3], found[4] / 2], [found[4] / 2, found[5]]]))
    reach = float(np.max(np.abs(x * np.cos(np.arctan2(down, right)) + y * np.sin(np.arctan2(down, right)))))
    far = float(np.max(np.abs(places @ towards[:, 1])))
    return _Soft(
        2 * float(np.hypot(right, down)) * reach,
        float(np.arctan2(down, right)),
        float(bent[1] - max(bent[0], 0.0)) * far**2,
        float(np.arctan2(towards[1, 1], towards[0, 1])),
        float(max(bent[0], 0.0)) * far**2,
        2 * float(np.hypot(*sigma[1:3])) * reach,
        float(np.hypot(sigma[3], sigma[5])) * far**2,
    )


SIDES = ("right", "lower right", "lower side", "lower left", "left", "upper left", "upper side", "upper right")
HEADINGS = ("right", "right and down", "down", "left and down", "left", "left and up", "up", "right and up")


def _side(heading_rad: float) -> str:
    return SIDES[round(heading_rad / (np.pi / 4)) % 8]


def _axis(heading_rad: float) -> str:
    return ("left and right", "along one diagonal", "above and below", "along one diagonal")[round(heading_rad / (np.pi / 4)) % 4]


def _heading(off: complex) -> str:
    return HEADINGS[round(float(np.angle(off)) / (np.pi / 4)) % 8]


def _ratio(picture: LensPicture, name: ColourName) -> float | None:
    one = picture.zones.get(name, (None,) * ZONES)[MIDDLE]
    green = picture.zones["green"][MIDDLE]
    if one is None or green is None:
        return None
    widths = [_axes(_matrix(spot)[None])[1][0] for spot in (one, green)]
    return float(widths[0] / widths[1])


def _at_stop(taken: Taken, sharpest: Mapping[bool, float], limits: Limits) -> AtStop:
    picture = taken.picture
    elongation, width = _axes(_tensors(picture, ("green",))[0])
    field = _field(picture)
    parted = picture.parted
    red, blue = (parted[name].stretch if name in parted else None for name in ("red", "blue"))
    halo = {name: _ratio(picture, name) for name in FRINGES}
    return AtStop(
        taken.name,
        taken.f_number,
        taken.by,
        picture.stars,
        float(width[MIDDLE]),
        float(elongation[MIDDLE]),
        float(np.nanmean(width[list(CORNERS)])),
        field.radial_px,
        field.soft_px,
        field.soft_deg,
        field.faults,
        _told(field.words, halo, {"red": red, "blue": blue}),
        halo["red"],
        halo["blue"],
        red,
        blue,
        picture.corner_light,
        picture.spikes.count,
        _worst(picture, False, sharpest[False], limits),
        _worst(picture, True, sharpest[True], limits),
        _trailed(picture),
        _shapes(_tensors(picture, colours_for(picture, False))[0]),
    )


def _trailed(picture: LensPicture) -> bool:
    """Whether stars are long in the middle, where only a lens that sits askew makes them so."""
    elongation, _ = _axes(_tensors(picture, ("green",))[0])
    return bool(elongation[MIDDLE] > TRAILED and "askew" not in _field(picture).faults)


def _told(field: str, halo: Mapping[ColourName, float | None], out: Mapping[ColourName, float | None]) -> str:
    """What stands out at a stop, of the field of shapes and of colours."""
    words = [field] if field else []
    words += [f"{name} {ratio:.1f} times as wide as green" for name, ratio in halo.items() if ratio is not None and ratio > HALO]
    far = {name: px for name, px in out.items() if px is not None and abs(px) > PARTED_PX}
    words += [f"in the corners {name} lies {abs(px):.1f} px further {'out' if px > 0 else 'in'}" for name, px in far.items()]
    return "; ".join(words) or "nothing stands out"


def _shapes(tensors: Floats) -> tuple[ZoneShape | None, ...]:
    elongation, width = _axes(tensors)
    turned = np.degrees(0.5 * np.arctan2(2 * tensors[:, 0, 1], tensors[:, 0, 0] - tensors[:, 1, 1])) % 180.0
    root = np.sqrt(elongation)
    return tuple(
        ZoneShape(float(wide * long), float(wide / long), float(angle)) if np.isfinite(wide) else None
        for wide, long, angle in zip(width, root, turned, strict=True)
    )


def pictures_of(result: Mapping[str, Any]) -> list[Taken]:
    """Pictures of a lens as a measurement keeps them."""
    return [Taken(one["name"], one["f_number"], one["by"], LensPicture.of(one["picture"])) for one in result["stops"]]


def by_stop(taken: Sequence[Taken]) -> list[Taken]:
    """From the widest stop."""
    return sorted(taken, key=lambda one: one.f_number)


def check_taken(taken: Sequence[Taken]) -> None:
    """Raises InvalidInput naming the picture that does not show the lens, and what to take instead."""
    faults = []
    for place, one in enumerate(taken):
        green = one.picture.zones["green"]
        empty = [name for name, zone in zip(CORNER_NAMES, CORNERS, strict=True) if green[zone] is None]
        if green[MIDDLE] is None:
            empty = ["middle", *empty]
        if empty:
            where = joined([f"{name} corner" if name != "middle" else "middle" for name in empty])
            told = (
                f"“{one.name}” has too few stars in its {where}. Take a richer field or expose longer; "
                "all over the picture there must be single stars that are not white."
            )
            faults.append(Fault(f"pictures.{place}", one.name, told))
    if faults:
        raise InvalidInput(faults)


def judge_lens(taken: Sequence[Taken], limits: Limits) -> JudgedLens:
    """Judge a lens by pictures at one stop or more. limits: elongation, and width against its own sharpest middle.

    Raises InvalidInput for pictures without stars in a corner.
    """
    check_taken(taken)
    rows = by_stop(taken)
    tracked = [one for one in rows if not _trailed(one.picture)] or rows
    sharpest = {
        narrow: min(float(_axes(_tensors(one.picture, colours_for(one.picture, narrow))[0])[1][MIDDLE]) for one in tracked)
        for narrow in (False, True)
    }
    stops = tuple(_at_stop(one, sharpest, limits) for one in rows)
    shown = [one for one in stops if not one.trailed]  # the others show the tracker and tell nothing of the lens
    broad, narrow = (_from_on(shown, which) for which in ("broad", "narrow"))
    return JudgedLens(stops, broad, narrow, _verdict(stops, broad, narrow, limits, sharpest[False]))


def _from_on(stops: Sequence[AtStop], use: Literal["broad", "narrow"]) -> float | None:
    """The widest stop from which on all are good; of two pictures at one stop both must be."""
    found = None
    for one in reversed(stops):
        if not getattr(one, use).good:
            break
        found = one.f_number
    if found is None:
        return None
    bad_there = any(abs(one.f_number - found) < SAME_STOP and not getattr(one, use).good for one in stops)
    wider = [one.f_number for one in stops if one.f_number > found + SAME_STOP]
    return (min(wider) if wider else None) if bad_there else found


def _verdict(stops: Sequence[AtStop], broad: float | None, narrow: float | None, limits: Limits, sharpest_px: float) -> Verdict:
    widest, trailed = stops[0], [one.name for one in stops if one.trailed]
    level: Level = "go" if broad is not None else "care"
    caution = ""
    if trailed:
        level = "care"
        caution = (
            f"In {joined(trailed)} stars are long in the middle too: that is the tracker, or wind. "
            "Take it again with a shorter time."
        )
    shown = [one for one in stops if not one.trailed]
    if not shown:
        sentence = "Take these pictures again: tracking failed, and stars are long even in the middle."
        advice = "They say nothing about the lens."
    elif broad is None:
        sentence = f"None of these stops keeps round corners in broadband; the narrowest was f/{shown[-1].f_number:.3g}."
        advice = f"Take one more at f/{shown[-1].f_number * 2**0.5:.2g}, or accept softer corners and crop."
    else:
        sentence = f"Good for stars from f/{broad:.3g} on in broadband"
        sentence += f", from f/{narrow:.3g} in narrowband." if narrow is not None and narrow < broad - SAME_STOP else "."
        advice = "" if widest.broad.good or widest.trailed else f"Wide open: {widest.words}."
    if any(one.broad.close for one in stops if broad is not None and one.f_number <= broad + SAME_STOP):
        advice += " One stop lies close to your limits: another picture of it would settle it."
    if len({round(one.f_number, 1) for one in stops}) == 1:
        advice += " One stop alone does not say where it becomes good; take two or three more, a stop apart."
    fails = [one for one in shown if not one.broad.good]
    decides = _decides((fails or shown[:1] or stops[:1])[-1], limits)
    lost = stops_between(widest.f_number, broad) if broad is not None else None
    return Verdict(
        "My lens",
        level,
        sentence,
        decides,
        advice.strip(),
        (
            Quantity("Broadband from", text=f"f/{broad:.3g}" if broad else "none of these", working="good"),
            Quantity("Narrowband from", text=f"f/{narrow:.3g}" if narrow else "none of these", working="good"),
            Quantity("Sharpest middle", sharpest_px, "px", decimals=2, working="width"),
            *((Quantity("Light given away", lost, "stops", working="good"),) if lost else ()),
        ),
        (
            Limit("Elongation anywhere", "at most", Quantity("Long over short axis", limits.elongation, "", decimals=2)),
            Limit("Width anywhere", "at most", Quantity("Against the sharpest middle", limits.width, "", decimals=2)),
        ),
        (_good_working(stops, limits, broad), _width_working(stops, sharpest_px)),
        caution,
    )


def _decides(one: AtStop, limits: Limits) -> str:
    """What of a stop lies furthest beyond a limit, or nearest to one."""
    worst = one.broad
    if worst.elongation / limits.elongation > worst.width / limits.width:
        told = f"stars {worst.elongation:.2f} times as long as wide, {_where(worst.elongation_zone)}"
    else:
        told = f"stars {worst.width:.2f} times as wide as the sharpest, {_where(worst.width_zone)}"
    return f"at f/{one.f_number:.3g} {told}"


def _where(zone: str) -> str:
    return "in the middle" if zone == "middle" else f"at the {zone}"


def _good_working(stops: Sequence[AtStop], limits: Limits, broad: float | None) -> Working:
    return Working(
        "good",
        "Widest good stop",
        "every zone: long ÷ short ≤ e,  width ÷ sharpest ≤ w, there and at all narrower stops",
        (
            Quantity("Your limit of elongation", limits.elongation, "", "e", 2),
            Quantity("Your limit of width", limits.width, "", "w", 2),
            *(
                Quantity(
                    f"f/{one.f_number:.3g}",
                    text=f"{one.broad.elongation:.2f} in the {one.broad.elongation_zone}, {one.broad.width:.2f} wide in the "
                    f"{one.broad.width_zone}",
                )
                for one in stops
            ),
        ),
        Quantity("Widest good stop", text=f"f/{broad:.3g}" if broad else "none of these"),
        SOURCE_MOMENTS,
        "published",
        "Broadband: a star that shines alike in every colour of the file, colours that part included. Narrowband: red alone.",
    )


def _width_working(stops: Sequence[AtStop], sharpest_px: float) -> Working:
    return Working(
        "width",
        "Width of stars",
        "2.355 (σ_long σ_short)^½, median of a zone's stars",
        tuple(Quantity(f"Middle, green, at f/{one.f_number:.3g}", one.middle_px, "px", decimals=2) for one in stops),
        Quantity("Sharpest middle, all colours", sharpest_px, "px", decimals=2),
        SOURCE_MOMENTS,
        "published",
    )
