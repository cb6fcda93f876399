"""The axis out of a run of pictures that were taken while the tracker ran and nobody touched it.

Seen from the stars, a camera on a true axis stands still. On an axis M it turns at  -w (M - P)  about the pole P's stars: two
components across the pole are the axis error, the third is the drive's own unevenness and is left out. Every frame of a night
can serve; twenty minutes are enough for an arcminute.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.spatial.transform import Rotation

from widedusk.core.choices import PoleKind
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.attitude import Air, attitude
from widedusk.core.pole.axis import ARCMIN, AxisError, aim, error_frame
from widedusk.core.pole.photographs import AIR_UNKNOWN_C, CLOCK_UNCHECKED_S, Exposed, check_times
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import SECOND, Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_RAD_S, pole_direction

LEAST_PICTURES = 3
LEAST_MINUTES = 8.0
MOST_WANDER_DEG = 3.0  # a tracker that runs holds the stars to better than this


def _vector(matrix: Floats) -> Floats:
    """The rotation vector of a small rotation."""
    return np.array([matrix[2, 1] - matrix[1, 2], matrix[0, 2] - matrix[2, 0], matrix[1, 0] - matrix[0, 1]]) / 2.0


def axis_from_series(
    pictures: Sequence[Exposed], observer: Observer, pole: PoleKind, air: Air, clock_s: float = CLOCK_UNCHECKED_S
) -> AxisError:
    """Axis error by least squares over time. clock_s: one standard deviation of the clock that stamped the pictures.

    Raises InvalidInput for runs that are too short, or were interrupted.
    """
    ordered = sorted(pictures, key=lambda one: one.mjd)
    minutes = (ordered[-1].mjd - ordered[0].mjd) * 1440.0 if ordered else 0.0
    if len(ordered) < LEAST_PICTURES or minutes < LEAST_MINUTES:
        raise InvalidInput(
            [
                Fault(
                    "pictures",
                    len(ordered),
                    f"{len(ordered)} pictures over {minutes:.0f} min are too few: give {LEAST_PICTURES} or more over "
                    f"{LEAST_MINUTES:.0f} min or longer, taken while the tracker ran and was not touched.",
                )
            ]
        )
    check_times(ordered, observer)
    found = _fit(ordered, observer, pole, air)
    warmer = _fit(ordered, observer, pole, replace(air, temperature_c=air.temperature_c + AIR_UNKNOWN_C))
    later = _fit([replace(one, mjd=one.mjd + clock_s * SECOND) for one in ordered], observer, pole, air)
    high = [found.altitude_sigma, *(one.altitude_arcmin - found.altitude_arcmin for one in (warmer, later))]
    east = [found.azimuth_sigma, *(one.azimuth_arcmin - found.azimuth_arcmin for one in (warmer, later))]
    return AxisError(found.altitude_arcmin, found.azimuth_arcmin, float(np.linalg.norm(high)), float(np.linalg.norm(east)))


def _fit(ordered: Sequence[Exposed], observer: Observer, pole: PoleKind, air: Air) -> AxisError:
    north = pole_direction(observer.latitude_rad)
    seconds = np.array([(one.mjd - ordered[0].mjd) / SECOND for one in ordered])
    carried = [Rotation.from_rotvec(SIDEREAL_RATE_RAD_S * after * north) for after in seconds]
    among_stars = [
        sky.as_matrix() @ attitude(one.matched, one.mjd, observer, air, one.corner_px).toward.T
        for one, sky in zip(ordered, carried, strict=True)
    ]
    turned = np.array([_vector(one @ among_stars[0].T) for one in among_stars])
    if np.degrees(np.abs(turned).max()) > MOST_WANDER_DEG:
        raise InvalidInput(
            [
                Fault(
                    "pictures",
                    len(ordered),
                    f"The camera moved by {np.degrees(np.abs(turned).max()):.0f}° among the stars: "
                    "it was turned, or the tracker stood still. Give pictures of one undisturbed run, or use two photographs.",
                )
            ]
        )
    true_altitude, azimuth = aim(observer, "true", air.temperature_c)
    aimed_altitude, _ = aim(observer, pole, air.temperature_c)
    frame = error_frame(true_altitude, azimuth)
    # Among the stars the axis circles the pole, so e = M - P turns on while it adds up: sin(wt) e + (1 - cos(wt)) (N x e).
    around = frame @ np.cross(north, frame).T  # N x, between the two components
    angle = SIDEREAL_RATE_RAD_S * seconds
    by_error = np.sin(angle)[:, None, None] * np.eye(2) + (1.0 - np.cos(angle))[:, None, None] * around
    offset = np.broadcast_to(np.eye(2), by_error.shape)
    design = np.concatenate([by_error, offset], axis=2).reshape(-1, 4)
    seen = (turned @ frame.T).reshape(-1)
    fit, *_ = np.linalg.lstsq(design, seen, rcond=None)
    left = seen - design @ fit
    variance = float(left @ left) / max(seen.size - 4, 1)
    spread = np.sqrt(variance * np.diag(np.linalg.inv(design.T @ design)))
    # The rotation is about the northern end; in the south the end that points at the sky is the other one.
    side = 1.0 if observer.south else -1.0
    high, east = (float(side * value / ARCMIN) for value in fit[:2])
    altitude_sigma, azimuth_sigma = (float(value / ARCMIN) for value in spread[:2])
    return AxisError(high - (aimed_altitude - true_altitude) / ARCMIN, east, altitude_sigma, azimuth_sigma)
