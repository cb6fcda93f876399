"""Where the tracker's axis points, out of two pictures between which nothing but its axis turned.

              e1 = R1ᵀ c          a direction c fixed to the camera, as it pointed in the first picture
              e2 = R2ᵀ c          and in the second
        D = R2ᵀ R1                turns one into the other: a rotation about the axis M, by the angle turned

Small errors w1, w2 of the two attitudes turn D by  d = w2 - D w1,  which moves the axis by

        dM = ½ cot(θ/2) d⊥ - ½ M x d            so 20° are three times as bad as 60°
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.attitude import Air, Attitude, attitude
from widedusk.core.frames.matched import Matched
from widedusk.core.pole.axis import ARCMIN, AxisError, aim, error_of_axis
from widedusk.core.sky.horizon import altaz
from widedusk.core.sky.places import Observer, sun_place
from widedusk.core.sky.time import SECOND, Floats
from widedusk.core.tracking.drift import direction

LEAST_TURN_DEG = 10.0
GOOD_TURN_DEG = 30.0
SAME_TURN_DEG = 0.2
MOST_OFF_DEG = 25.0  # an axis farther from the pole than this is no polar axis
ODD_OFF_DEG = 8.0  # and one this far is more likely a camera that moved in its head
ZOOM_SHARE = 0.004  # focal lengths of two pictures through one lens agree to a few parts in ten thousand
AIR_UNKNOWN_C = 12.0  # one standard deviation of a temperature nobody measured, pressure included
CLOCK_UNKNOWN_S = 1.0  # of the difference of two time stamps, which cameras write in whole seconds
# Of both together, one standard deviation: it turns the error about the pole, 15° an hour, and leaves its size.
CLOCK_UNCHECKED_S = 30.0  # of a clock nobody compared: set by hand, it drifts by seconds a month; from memory, no source
CLOCK_CHECKED_S = 1.0  # of one that was compared with a clock in whole seconds
CENTRE_UNKNOWN = 0.005  # of the corner's distance: how far off the sensor's middle an optical axis stands, one standard deviation
CENTRE_ROUNDS = 3
FORMULA_ARCMIN = 0.01  # what formulas of refraction differ by, and lenses from their model, in one attitude
SAME_AXIS_ARCMIN = 2.0  # axes of two pairs of pictures that are no farther apart than this are one
SAME_AXIS_SIGMAS = 4.0  # or than so many standard deviations
SUN_TOO_HIGH = np.radians(-5.0)


@dataclass(frozen=True)
class Exposed:
    """One picture whose stars are known. mjd: the middle of its exposure, UTC."""

    name: str
    matched: Matched
    mjd: float
    corner_px: float


@dataclass(frozen=True)
class AxisFound:
    """The axis between two pictures: its direction (east-north-up, upward end), the angle turned, covariance rad² (3, 3)."""

    axis: Floats
    turn_rad: float
    covariance: Floats


@dataclass(frozen=True)
class Photographed:
    """What two or more pictures say of the axis. turn_deg: between the two that were farthest apart. notes: plain sentences."""

    error: AxisError
    turn_deg: float
    stars: int
    residual_arcsec: float
    focal_px: float
    notes: tuple[str, ...]


def _cross(axis: Floats) -> Floats:
    x, y, z = axis
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def axis_between(first: Attitude, second: Attitude) -> AxisFound:
    """The common axis of two attitudes. Without a turn between them it is noise: check turn_rad."""
    between = second.toward.T @ first.toward
    cosine = np.clip((np.trace(between) - 1.0) / 2.0, -1.0, 1.0)
    skew = np.array([between[2, 1] - between[1, 2], between[0, 2] - between[2, 0], between[1, 0] - between[0, 1]]) / 2.0
    turn = float(np.arctan2(np.linalg.norm(skew), cosine))
    axis = skew / max(float(np.linalg.norm(skew)), 1e-12)
    if np.pi - turn < 1e-3:  # the skew part fades out at half a turn: take the axis from the symmetric part
        square = (between + between.T) / 2.0 + np.eye(3)
        axis = square[:, int(np.argmax(np.diag(square)))]
        axis = axis / np.linalg.norm(axis)
    lever = 0.5 / np.tan(max(turn, 1e-6) / 2.0) * (np.eye(3) - np.outer(axis, axis)) - 0.5 * _cross(axis)
    errors = second.covariance + between @ first.covariance @ between.T
    return AxisFound(axis if axis[2] >= 0 else -axis, turn, lever @ errors @ lever.T)


def _refuse(message: str, value: object) -> InvalidInput:
    return InvalidInput([Fault("pictures", value, message)])


def check_times(pictures: Sequence[Exposed], observer: Observer) -> None:
    """Raise InvalidInput when the stars cannot have been there, or the Sun was up: the clock or its time zone is off."""
    mjd = np.array([one.mjd for one in pictures])
    sun = sun_place(observer, mjd)
    sun_altitude, _ = altaz(sun.ra, sun.dec, mjd, observer)
    for one, height in zip(pictures, sun_altitude, strict=True):
        if height > SUN_TOO_HIGH:
            raise _refuse(
                f"By its clock “{one.name}” was taken with the Sun {np.degrees(height):+.0f}° high, "
                "which no picture of stars can be: the clock or its time zone is off. Put the time right and measure again.",
                one.name,
            )


def _check_places(pictures: Sequence[Exposed], attitudes: Sequence[Attitude]) -> None:
    for one, found in zip(pictures, attitudes, strict=True):
        if found.altitude_rad < 0:
            raise _refuse(
                f"By its clock, what “{one.name}” shows was {-np.degrees(found.altitude_rad):.0f}° below the ground: "
                "the clock, its time zone or the place is off. Put it right and measure again.",
                one.name,
            )


def _check_pair(first: Exposed, second: Exposed, turn_deg: float) -> None:
    if turn_deg < SAME_TURN_DEG:
        raise _refuse(
            f"“{first.name}” and “{second.name}” look the same way: the same picture twice, or the axis was not turned. "
            f"Turn it by {GOOD_TURN_DEG:.0f}° or more and take the second one.",
            second.name,
        )
    if turn_deg < LEAST_TURN_DEG:
        raise _refuse(
            f"The axis turned by {turn_deg:.1f}° between “{first.name}” and “{second.name}”; {LEAST_TURN_DEG:.0f}° are needed and "
            f"{GOOD_TURN_DEG:.0f}° or more are good. Turn it farther and take the second one again.",
            second.name,
        )


def _check_lens(pictures: Sequence[Exposed], attitudes: Sequence[Attitude]) -> None:
    first = attitudes[0].focal_px
    for one, found in zip(pictures[1:], attitudes[1:], strict=True):
        change = found.focal_px / first - 1.0
        if abs(change) > ZOOM_SHARE:
            raise _refuse(
                f"The focal length changed by {100 * change:+.1f} % between “{pictures[0].name}” and “{one.name}”: "
                "a zoom or the focus moved, and the camera may have moved with it. Tape both, then take the two pictures again.",
                one.name,
            )
        if one.matched.mirrored != pictures[0].matched.mirrored:
            raise _refuse(
                f"One of “{pictures[0].name}” and “{one.name}” is mirrored and the other is not. "
                "Give both as the camera wrote them.",
                one.name,
            )


@dataclass(frozen=True)
class Held:
    """Pictures between which the camera did not move in its head: the pair of them that tells the axis best.

    after: the place of the picture after which it slipped, by slip_rad; None: nowhere.
    """

    pair: tuple[int, int]
    found: AxisFound
    after: int | None = None
    slip_rad: float = 0.0


def _apart(one: AxisFound, other: AxisFound) -> float:
    return float(np.arctan2(np.linalg.norm(np.cross(one.axis, other.axis)), one.axis @ other.axis))


def _agree(one: AxisFound, other: AxisFound) -> bool:
    spread = float(np.sqrt(np.trace(one.covariance) + np.trace(other.covariance)))
    return bool(_apart(one, other) <= max(SAME_AXIS_SIGMAS * spread, SAME_AXIS_ARCMIN * ARCMIN))


def _told_by(attitudes: Sequence[Attitude], places: Sequence[range]) -> tuple[tuple[int, int], AxisFound] | None:
    """The widest pair among pictures that all held, group by group; None where their axes differ."""
    pairs = [(pair, axis_between(*(attitudes[one] for one in pair))) for group in places for pair in combinations(group, 2)]
    if not pairs:
        return None
    widest = max(pairs, key=lambda pair: pair[1].turn_rad)
    turned = [found for _, found in pairs if np.degrees(found.turn_rad) >= LEAST_TURN_DEG]
    return widest if all(_agree(found, widest[1]) for found in turned) else None


def _ways_it_held(attitudes: Sequence[Attitude]) -> list[Held]:
    """What the pictures, in the order in which they were taken, can mean: that nothing slipped, or where it slipped, once.

    Three pictures with a slip between two of them mean one of two axes, and nothing in them tells which: three numbers a pair, and
    each pair alone has an axis. Four tell.
    """
    count = len(attitudes)
    whole = _told_by(attitudes, [range(count)])
    if whole is not None:
        return [Held(*whole)]
    ways = []
    for after in range(count - 1):
        told = _told_by(attitudes, [range(after + 1), range(after + 1, count)])
        if told is not None:
            across = attitudes[after + 1].toward.T @ attitudes[after].toward @ told[1].axis
            slip = float(np.arctan2(np.linalg.norm(np.cross(across, told[1].axis)), across @ told[1].axis))
            ways.append(Held(*told, after, slip))
    return ways


def _centre(pictures: Sequence[Exposed], observer: Observer, air: Air) -> tuple[Floats, Floats]:
    """Where the optical axis of the lens they share meets the sensor, px right and down of its middle, and its covariance.

    What all stars of all pictures say of it together with what is known of lenses beforehand.
    """
    known = np.eye(2) / (CENTRE_UNKNOWN * pictures[0].corner_px) ** 2
    centre, weight = np.zeros(2), known
    for _ in range(CENTRE_ROUNDS):
        fitted = [attitude(one.matched, one.mjd, observer, air, one.corner_px, centre) for one in pictures]
        weight = known + np.sum([one.centre_weight for one in fitted], axis=0)
        pull = np.sum([one.centre_weight @ one.centre_pull for one in fitted], axis=0) - known @ centre
        step = np.linalg.solve(weight, pull)
        centre = centre + step
        if np.linalg.norm(step) < 1e-3:
            break
    return centre, np.asarray(np.linalg.inv(weight), dtype=np.float64)


def _error(pictures: Sequence[Exposed], observer: Observer, pole: PoleKind, air: Air, centre: Floats) -> AxisError:
    first, second = (attitude(one.matched, one.mjd, observer, air, one.corner_px, centre) for one in pictures)
    found = axis_between(first, second)
    return error_of_axis(found.axis, found.covariance, *aim(observer, pole, air.temperature_c))


def axis_from_pictures(
    pictures: Sequence[Exposed], observer: Observer, pole: PoleKind, air: Air, clock_s: float = CLOCK_UNCHECKED_S
) -> Photographed:
    """The axis out of two pictures or more. clock_s: one standard deviation of the clock that stamped them.

    Raises InvalidInput with a plain sentence for what they cannot tell.
    """
    if len(pictures) < 2:
        raise _refuse("Give two pictures, with the axis turned by 30° or more in between.", len(pictures))
    pictures = sorted(pictures, key=lambda one: one.mjd)
    check_times(pictures, observer)
    centre, centre_spread = _centre(pictures, observer, air)
    attitudes = [attitude(one.matched, one.mjd, observer, air, one.corner_px, centre) for one in pictures]
    _check_places(pictures, attitudes)
    _check_lens(pictures, attitudes)
    ways = _ways_it_held(attitudes)
    if not ways:
        raise _refuse(
            "The pictures do not tell one axis, nor one slip between two of them: the camera keeps moving in its head. "
            "Clamp it and take them again.",
            len(pictures),
        )
    for way in ways:
        first, second = (pictures[one] for one in way.pair)
        _check_pair(first, second, float(np.degrees(way.found.turn_rad)))
    ways = _polar(ways, aim(observer, pole, air.temperature_c))
    told = [
        _with_what_is_unknown([pictures[one] for one in way.pair], way.found, observer, pole, air, (centre, centre_spread), clock_s)
        for way in ways
    ]
    used = [attitudes[one] for one in ways[0].pair]
    turn_deg = float(np.degrees(ways[0].found.turn_rad))
    off_deg = max(one.total_arcmin for one in told) / 60.0
    return Photographed(
        _either(told),
        turn_deg,
        min(one.stars for one in used),
        float(np.degrees(1.0 / used[0].focal_px) * 3600.0) * max(one.residual_px for one in used),
        used[0].focal_px,
        (*_notes(pictures, attitudes, turn_deg, off_deg), *_slipped(pictures, ways, told)),
    )


def _polar(ways: Sequence[Held], at: tuple[float, float]) -> list[Held]:
    """Those whose axis can be a polar axis. Raises InvalidInput where none is."""
    off_deg = [float(np.degrees(np.arccos(np.clip(way.found.axis @ direction(*at), -1.0, 1.0)))) for way in ways]
    if min(off_deg) > MOST_OFF_DEG:
        raise _refuse(
            f"Between the pictures the camera turned about a point {min(off_deg):.0f}° from the pole: it moved in its head "
            "or was turned by hand, or the place is another. Clamp it, turn the RA axis only, and take both again.",
            round(min(off_deg), 1),
        )
    return [way for way, off in zip(ways, off_deg, strict=True) if off <= MOST_OFF_DEG]


def _with_what_is_unknown(
    pair: Sequence[Exposed],
    found: AxisFound,
    observer: Observer,
    pole: PoleKind,
    air: Air,
    centre: tuple[Floats, Floats],
    clock_s: float,
) -> AxisError:
    """The axis of a pair with all of its uncertainty.

    To what the fit knows of itself come what it cannot know (the air, the fraction of a second of the stamps, how well the clock
    was set, its own formulas) and what it knows only so well (where the optical axis is).
    """
    fitted = error_of_axis(found.axis, found.covariance, *aim(observer, pole, air.temperature_c))
    sizes, ways = np.linalg.eigh(centre[1])
    other = [_error(pair, observer, pole, air, centre[0] + np.sqrt(size) * way) for size, way in zip(sizes, ways.T, strict=True)]
    other.append(_error(pair, observer, pole, replace(air, temperature_c=air.temperature_c + AIR_UNKNOWN_C), centre[0]))
    late = [pair[0], replace(pair[1], mjd=pair[1].mjd + CLOCK_UNKNOWN_S * SECOND)]
    other.append(_error(late, observer, pole, air, centre[0]))
    slow = [replace(one, mjd=one.mjd + clock_s * SECOND) for one in pair]
    other.append(_error(slow, observer, pole, air, centre[0]))
    formula = FORMULA_ARCMIN * np.sqrt(2.0) / (2.0 * np.sin(found.turn_rad / 2.0))
    parts = [(formula, formula), (fitted.altitude_sigma, fitted.azimuth_sigma)]
    parts += [(one.altitude_arcmin - fitted.altitude_arcmin, one.azimuth_arcmin - fitted.azimuth_arcmin) for one in other]
    altitude_sigma, azimuth_sigma = (float(np.linalg.norm([part[k] for part in parts])) for k in (0, 1))
    return AxisError(fitted.altitude_arcmin, fitted.azimuth_arcmin, altitude_sigma, azimuth_sigma)


def _either(told: Sequence[AxisError]) -> AxisError:
    """One axis of several that the pictures allow alike: their mean, and spread enough to hold them."""
    high, east = (np.array([getattr(one, name) for one in told]) for name in ("altitude_arcmin", "azimuth_arcmin"))
    altitude_sigma, azimuth_sigma = (np.array([getattr(one, name) for one in told]) for name in ("altitude_sigma", "azimuth_sigma"))
    return AxisError(
        float(np.mean(high)),
        float(np.mean(east)),
        float(np.hypot(np.sqrt(np.mean(altitude_sigma**2)), np.std(high))),
        float(np.hypot(np.sqrt(np.mean(azimuth_sigma**2)), np.std(east))),
    )


def _slipped(pictures: Sequence[Exposed], ways: Sequence[Held], told: Sequence[AxisError]) -> tuple[str, ...]:
    """Between which pictures the camera moved in its head, in words."""
    between = [
        f"between “{pictures[way.after].name}” and “{pictures[way.after + 1].name}”" for way in ways if way.after is not None
    ]
    if not between:
        return ()
    slip = f"{max(way.slip_rad for way in ways) / ARCMIN:.0f}′"
    if len(ways) == 1:
        return (
            f"The camera slipped in its head by about {slip} {between[0]}. The axis is that of the pictures that agree. "
            "Clamp the camera before you go on.",
        )
    either = " or ".join(f"{one.total_arcmin:.0f}′ off if it was {where}" for one, where in zip(told, between, strict=True))
    return (
        f"The camera slipped in its head by about {slip}. The axis stands {either}, and these pictures cannot tell which; "
        "a further one can, turned once more and with nothing else touched. Best clamp the camera and begin again.",
    )


def _notes(pictures: Sequence[Exposed], attitudes: Sequence[Attitude], turn_deg: float, off_deg: float) -> tuple[str, ...]:
    notes = []
    if turn_deg < GOOD_TURN_DEG:
        notes.append(f"The axis turned by {turn_deg:.0f}°; from {GOOD_TURN_DEG:.0f}° on the answer is sharper.")
    if off_deg > ODD_OFF_DEG:
        notes.append(
            f"The axis stands {off_deg:.0f}° from the pole. If the tripod is set up roughly right, the camera slipped in its head "
            "between the pictures: clamp it and take both again."
        )
    low = min(np.degrees(one.altitude_rad) for one in attitudes)
    if low < 20:
        notes.append(f"One picture looks {low:.0f}° above the ground, where the air bends most; 30° to 70° is best.")
    if pictures[0].matched.mirrored:
        notes.append("The pictures are mirrored, and were read as such. Files as the camera writes them are not.")
    return tuple(notes)
