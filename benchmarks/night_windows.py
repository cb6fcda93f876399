"""Night windows of 12 targets at one-minute steps: ours against astropy doing the same work in the same run.

    .venv/bin/python -m benchmarks.night_windows

Both sides start from ICRS places and end with altitude and azimuth of every target, and of Sun and Moon, for every minute
of a night. Prints the ratio of times and the largest difference on the sky. Refraction is left out on both sides.
"""

import time
import warnings
from collections.abc import Callable
from datetime import date

import astropy.units as u
import numpy as np
from astropy.coordinates import AltAz, EarthLocation, SkyCoord, get_body
from astropy.time import Time
from astropy.utils import iers

from widedusk.core.sky.horizon import altaz
from widedusk.core.sky.places import Observer, moon_place, separation, star_place, sun_place
from widedusk.core.sky.time import solar_midnight

LATITUDE, LONGITUDE, HEIGHT_M = -24.62, 16.94, 1420.0
EVENING = date(2026, 12, 8)


def targets() -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(12)
    return rng.uniform(0, 2 * np.pi, 12), np.arcsin(rng.uniform(-1, 0.6, 12))


def ours(ra: np.ndarray, dec: np.ndarray, mjd: np.ndarray) -> np.ndarray:
    observer = Observer(np.radians(LATITUDE), np.radians(LONGITUDE), HEIGHT_M)
    cirs_ra, cirs_dec = star_place(ra, dec, float(mjd.mean()))
    sun, moon = sun_place(observer, mjd), moon_place(observer, mjd)
    all_ra = np.concatenate([np.broadcast_to(cirs_ra[:, None], (12, mjd.size)), sun.ra[None], moon.ra[None]])
    all_dec = np.concatenate([np.broadcast_to(cirs_dec[:, None], (12, mjd.size)), sun.dec[None], moon.dec[None]])
    return np.stack(altaz(all_ra, all_dec, mjd, observer))


def theirs(ra: np.ndarray, dec: np.ndarray, mjd: np.ndarray) -> np.ndarray:
    times = Time(mjd, format="mjd", scale="utc")
    where = EarthLocation.from_geodetic(LONGITUDE * u.deg, LATITUDE * u.deg, HEIGHT_M * u.m)
    stars = SkyCoord(ra[:, None] * u.rad, dec[:, None] * u.rad).transform_to(AltAz(obstime=times[None, :], location=where))
    frame = AltAz(obstime=times, location=where)
    bodies = [get_body(name, times, where).transform_to(frame) for name in ("sun", "moon")]
    altitude = np.concatenate([stars.alt.rad, *(body.alt.rad[None] for body in bodies)])
    azimuth = np.concatenate([stars.az.rad, *(body.az.rad[None] for body in bodies)])
    return np.stack([altitude, azimuth])


def best_of(work: Callable[[], np.ndarray], times: int) -> tuple[float, np.ndarray]:
    took, result = [], np.empty(0)
    for _ in range(times):
        started = time.perf_counter()
        result = work()
        took.append(time.perf_counter() - started)
    return min(took), result


def main() -> None:
    iers.conf.auto_download = False
    iers.conf.auto_max_age = None
    warnings.simplefilter("ignore")
    ra, dec = targets()
    mjd = solar_midnight(EVENING, np.radians(LONGITUDE)) + np.arange(-720, 721) / 1440
    ours(ra, dec, mjd), theirs(ra, dec, mjd[::100])  # load tables on both sides first
    own, mine = best_of(lambda: ours(ra, dec, mjd), 7)
    other, reference = best_of(lambda: theirs(ra, dec, mjd), 3)
    apart = np.degrees(separation(mine[1], mine[0], reference[1], reference[0])) * 3600
    print(f"12 targets, Sun and Moon, {mjd.size} minutes")
    print(f"ours    {own * 1e3:8.1f} ms")
    print(f"astropy {other * 1e3:8.1f} ms")
    print(f"ratio   {other / own:8.0f} x")
    print(f"largest difference: targets {apart[:12].max():.2f} arcsec, Sun {apart[12].max():.2f}, Moon {apart[13].max():.2f}")


if __name__ == "__main__":
    main()
