"""How a camera stood over the ground when it took a picture.

    x = p + f (1 + k1 q + k2 q²) c_x / c_z      q = (f / corner)² (c_x² + c_y²) / c_z²
    c = R e                                     e: where the star was seen, east-north-up, lifted by the air

R, f, k1 and k2 by least squares over all matched stars, far-off ones held down (Cauchy's weights). An error of the lens that
is the same in two pictures turns both cameras alike in their own frame, and so leaves the axis between them alone. Where the
optical axis meets the sensor (p) is nearly such an error, but on a wide lens not quite: it is given from outside, and what
the picture itself says of it is told, so that pictures through one lens can agree on it.
"""

from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from widedusk.core.frames.matched import Matched
from widedusk.core.sky.horizon import altaz, apparent_altitude, pressure_at
from widedusk.core.sky.places import Observer, star_vectors
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import direction

ROUNDS = 12
SECOND_TERM_FROM = 60  # stars; with fewer k2 is noise
LOWEST_RAD = np.radians(2.0)  # refraction below this is no more than a guess
HAZY_RAD = np.radians(10.0)  # and up to here formulas differ by seconds of arc: such stars are left out while others are enough
ENOUGH_STARS = 20


@dataclass(frozen=True)
class Air:
    temperature_c: float = 10.0
    pressure_hpa: float | None = None  # none: of the height


@dataclass(frozen=True)
class Attitude:
    """`toward` turns east-north-up into the camera's frame (x right, y down, z forward), shape (3, 3).

    covariance: of a small turn of the camera, a rotation vector east-north-up, rad², shape (3, 3).
    """

    toward: Floats
    covariance: Floats
    mjd: float
    focal_px: float
    bend: float
    residual_px: float
    stars: int
    centre_pull: Floats  # how far the stars would have the optical axis from where it was put, right and down, px
    centre_weight: Floats  # and how sure they are: the inverse of its covariance, shape (2, 2)

    @property
    def altitude_rad(self) -> float:
        """Of the middle of the picture."""
        return float(np.arcsin(np.clip(self.toward[2, 2], -1.0, 1.0)))

    @property
    def azimuth_rad(self) -> float:
        return float(np.arctan2(self.toward[2, 0], self.toward[2, 1]) % (2.0 * np.pi))


def seen_directions(icrs: Floats, mjd: float, observer: Observer, air: Air) -> Floats:
    """East-north-up directions in which stars are seen, shape (n, 3); those below the ground stay unlifted."""
    cirs = star_vectors(icrs, mjd)
    ra, dec = np.arctan2(cirs[:, 1], cirs[:, 0]), np.arcsin(np.clip(cirs[:, 2], -1.0, 1.0))
    altitude, azimuth = altaz(ra, dec, np.asarray(mjd), observer)
    pressure = pressure_at(observer.height_m) if air.pressure_hpa is None else air.pressure_hpa
    lifted = apparent_altitude(altitude, pressure, air.temperature_c)
    return direction(np.where(altitude > LOWEST_RAD, lifted, altitude), azimuth)


def attitude(
    matched: Matched, mjd: float, observer: Observer, air: Air, corner_px: float, centre: Floats | tuple[float, float] = (0.0, 0.0)
) -> Attitude:
    """Fit one picture. mjd is the middle of its exposure; eight stars or more, as `match` gives them.

    centre: where the optical axis meets the sensor, px right and down of its middle.
    """
    seen = seen_directions(matched.vectors, mjd, observer, air)
    x, y = matched.x - centre[0], matched.y - centre[1]
    clear = seen[:, 2] > np.sin(HAZY_RAD)
    if np.count_nonzero(clear) >= ENOUGH_STARS:
        seen, x, y = seen[clear], x[clear], y[clear]
    straight = np.column_stack([x, y, np.full_like(x, matched.focal_px)])
    toward = Rotation.align_vectors(straight / np.linalg.norm(straight, axis=1)[:, None], seen)[0].as_matrix()
    terms = 2 if x.size >= SECOND_TERM_FROM else 1
    focal, bends = matched.focal_px, np.array([matched.bend] + [0.0] * (terms - 1))
    weight = np.ones_like(x)
    about = np.cross(seen[:, None, :], np.eye(3))  # e x w for a turn w about each axis, (stars, 3, 3)
    for _ in range(ROUNDS):
        camera = seen @ toward.T
        plain_x, plain_y = focal * camera[:, 0] / camera[:, 2], focal * camera[:, 1] / camera[:, 2]
        q = (plain_x**2 + plain_y**2) / corner_px**2
        powers = np.stack([q ** (term + 1) for term in range(terms)], axis=1)
        stretch = 1.0 + powers @ bends
        slope = 2.0 * np.sum(powers * bends * (np.arange(terms) + 1), axis=1)  # d stretch / d ln r
        off_x, off_y = x - plain_x * stretch, y - plain_y * stretch
        off = np.hypot(off_x, off_y)
        spread = max(float(np.median(off)) / 1.1774, 1e-4)  # of one coordinate: the median of a Rayleigh distribution
        weight = 1.0 / (1.0 + (off / (3.0 * spread)) ** 2)
        # Turning the camera by w (east-north-up) turns what it sees by -w: dc = R (e x w).
        turned = about @ toward.T
        d_plain_x = (focal * turned[..., 0] - plain_x[:, None] * turned[..., 2]) / camera[:, 2:3]
        d_plain_y = (focal * turned[..., 1] - plain_y[:, None] * turned[..., 2]) / camera[:, 2:3]
        radial = (plain_x[:, None] * d_plain_x + plain_y[:, None] * d_plain_y) / np.maximum(plain_x**2 + plain_y**2, 1e-9)[:, None]
        columns = []
        for plain, d_plain in ((plain_x, d_plain_x), (plain_y, d_plain_y)):
            by_turn = d_plain * stretch[:, None] + plain[:, None] * slope[:, None] * radial
            by_focal = plain * (stretch + slope)
            columns.append(np.column_stack([by_turn, by_focal, plain[:, None] * powers]))
        design = np.vstack(columns)
        root = np.sqrt(np.tile(weight, 2))[:, None]
        held, left = design * root, np.concatenate([off_x, off_y]) * root[:, 0]
        normal = held.T @ held
        step = np.linalg.solve(normal, held.T @ left)
        toward = toward @ Rotation.from_rotvec(step[:3]).as_matrix().T
        focal *= float(np.exp(np.clip(step[3], -0.1, 0.1)))
        bends = bends + step[4:]
        if np.linalg.norm(step[:3]) < 1e-9:
            break
    # Cauchy's weights take some of the good stars' say away as well: scale by what they leave.
    freedom = max(2.0 * float(np.sum(weight)) - design.shape[1], 1.0)
    variance = float(np.sum(left**2)) / freedom
    covariance = np.linalg.inv(normal)[:3, :3] * variance
    # What is left of a shift of the optical axis when all else may give way to it.
    shift = np.kron(np.eye(2), np.ones((x.size, 1))) * root
    rest = shift - held @ np.linalg.solve(normal, held.T @ shift)
    centre_weight = rest.T @ rest / variance
    centre_pull = np.linalg.lstsq(rest, left, rcond=None)[0]
    return Attitude(toward, covariance, mjd, focal, float(bends[0]), spread, int(x.size), centre_pull, centre_weight)
