"""Where the tracker's axis points, out of two pictures between which nothing but its axis turned.

              e1 = R1ᵀ c          a direction c fixed to the camera, as it pointed in the first picture
              e2 = R2ᵀ c          and in the second
        D = R2ᵀ R1                turns one into the other: a rotation about the axis M, by the angle turned

Small errors w1, w2 of the two attitudes turn D by  d = w2 - D w1,  which moves the axis by

        dM = ½ cot(θ/2) d⊥ - ½ M x d            so 20° are three times as bad as 60°
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.attitude import Air, Attitude, attitude
from widedusk.core.frames.matched import Matched
from widedusk.core.pole.axis import ARCMIN, AxisError, aim, error_of_axis
from widedusk.core.pole.dial import PoleKind
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
CLOCK_COMMON_S = 10.0  # of both together: it turns the error about the pole, 15° an hour, and leaves its size
CENTRE_UNKNOWN = 0.005  # of the corner's distance: how far off the sensor's middle an optical axis stands, one standard deviation
CENTRE_ROUNDS = 3
FORMULA_ARCMIN = 0.03  # what formulas of refraction differ by, and lenses from their model, in one attitude
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
    altitudes_deg: tuple[float, ...]


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


def _widest(attitudes: Sequence[Attitude]) -> tuple[int, int, AxisFound]:
    """The two pictures between which the axis turned farthest."""
    pairs = [(i, j, axis_between(attitudes[i], attitudes[j])) for i in range(len(attitudes)) for j in range(i + 1, len(attitudes))]
    return max(pairs, key=lambda pair: pair[2].turn_rad)


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


def axis_from_pictures(pictures: Sequence[Exposed], observer: Observer, pole: PoleKind, air: Air) -> Photographed:
    """The axis out of two pictures or more. Raises InvalidInput with a plain sentence for what they cannot tell."""
    if len(pictures) < 2:
        raise _refuse("Give two pictures, with the axis turned by 30° or more in between.", len(pictures))
    check_times(pictures, observer)
    centre, centre_spread = _centre(pictures, observer, air)
    attitudes = [attitude(one.matched, one.mjd, observer, air, one.corner_px, centre) for one in pictures]
    i, j, found = _widest(attitudes)
    turn_deg = float(np.degrees(found.turn_rad))
    _check_places(pictures, attitudes)
    _check_lens(pictures, attitudes)
    _check_pair(pictures[i], pictures[j], turn_deg)
    at = aim(observer, pole, air.temperature_c)
    statistical = error_of_axis(found.axis, found.covariance, *at)
    off_deg = float(np.degrees(np.arccos(np.clip(found.axis @ direction(*at), -1.0, 1.0))))
    if off_deg > MOST_OFF_DEG:
        raise _refuse(
            f"Between the pictures the camera turned about a point {off_deg:.0f}° from the pole: it moved in its head "
            "or was turned by hand, or the place is another. Clamp it, turn the RA axis only, and take both again.",
            round(off_deg, 1),
        )
    pair = [pictures[i], pictures[j]]
    # What the fit cannot know: the air, the fraction of a second of the stamps, how well the clock was set, its own formulas;
    # and what it knows only so well: where the optical axis is.
    sizes, ways = np.linalg.eigh(centre_spread)
    shifted = [_error(pair, observer, pole, air, centre + np.sqrt(size) * way) for size, way in zip(sizes, ways.T, strict=True)]
    warmer = _error(pair, observer, pole, replace(air, temperature_c=air.temperature_c + AIR_UNKNOWN_C), centre)
    late = [pair[0], replace(pair[1], mjd=pair[1].mjd + CLOCK_UNKNOWN_S * SECOND)]
    later = _error(late, observer, pole, air, centre)
    slow = _error([replace(one, mjd=one.mjd + CLOCK_COMMON_S * SECOND) for one in pair], observer, pole, air, centre)
    parts = [(statistical.high_sigma, statistical.east_sigma)]
    parts += [
        (one.high_arcmin - statistical.high_arcmin, one.east_arcmin - statistical.east_arcmin)
        for one in (warmer, later, slow, *shifted)
    ]
    formula = FORMULA_ARCMIN * np.sqrt(2.0) / (2.0 * np.sin(found.turn_rad / 2.0))
    high_sigma, east_sigma = (float(np.sqrt(formula**2 + sum(part[k] ** 2 for part in parts))) for k in (0, 1))
    error = AxisError(statistical.high_arcmin, statistical.east_arcmin, high_sigma, east_sigma)
    scale = float(np.degrees(1.0 / attitudes[i].focal_px) * 3600.0)
    return Photographed(
        error,
        turn_deg,
        min(attitudes[i].stars, attitudes[j].stars),
        scale * max(attitudes[i].residual_px, attitudes[j].residual_px),
        attitudes[i].focal_px,
        (*_notes(pictures, attitudes, turn_deg, off_deg), *_agreement(pictures, attitudes, (i, j), found)),
        tuple(float(np.degrees(one.altitude_rad)) for one in attitudes),
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


def _agreement(
    pictures: Sequence[Exposed], attitudes: Sequence[Attitude], used: tuple[int, int], found: AxisFound
) -> tuple[str, ...]:
    """With a third picture the camera's grip can be checked: every pair must tell the same axis."""
    notes = []
    for k in range(len(pictures)):
        if k in used:
            continue
        others = [axis_between(attitudes[used[0]], attitudes[k]), axis_between(attitudes[k], attitudes[used[1]])]
        other = max(others, key=lambda one: abs(np.sin(one.turn_rad / 2)))
        if np.degrees(other.turn_rad) < LEAST_TURN_DEG:
            continue
        apart = float(np.linalg.norm(other.axis - found.axis)) / ARCMIN
        spread = float(np.sqrt(np.trace(other.covariance) + np.trace(found.covariance))) / ARCMIN
        if apart > max(4 * spread, 2.0):
            notes.append(
                f"“{pictures[k].name}” tells an axis {apart:.0f}′ away: the camera moved in its head. Clamp it and begin again."
            )
    return tuple(notes)
