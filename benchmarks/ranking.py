"""Ranking the whole catalogue for a night at five-minute steps: ours against astropy doing the altitude work in the same run.

    .venv/bin/python -m benchmarks.ranking

Both sides start from the ICRS places of every entry and end with what tells its altitude at every step from dusk to dawn:
astropy with the angle, ours with its sine, which is all that ranking asks for. Prints both
times, their ratio and the largest difference; then what the whole ranking (horizon profile, Moon, sky, order) costs on top, and
the year calendar of one target.
"""

import time
from collections.abc import Callable
from datetime import date

import astropy.units as u
import numpy as np
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from astropy.utils import iers

from demo.scenario import HERON, PLACES, TARGETS
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.choices import Choices
from widedusk.core.night.calendar import year_calendar
from widedusk.core.night.windows import night_at
from widedusk.core.plan.ranking import STEP_MIN, Wanted, rank, sine_altitudes
from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.places import star_vectors

EVENING = date(2026, 12, 8)


def best_of(work: Callable[[], object], times: int) -> tuple[float, object]:
    spent, answer = [], None
    for _ in range(times):
        begun = time.perf_counter()
        answer = work()
        spent.append(time.perf_counter() - begun)
    return min(spent), answer


def main() -> None:
    iers.conf.auto_download, iers.conf.auto_max_age = False, None
    iers.conf.iers_degraded_accuracy = "ignore"
    place = PLACES[0]
    at = (place.latitude_deg, place.longitude_deg, place.height_m, place.time_zone, place.sky_mag)
    spot = Spot(place.name, *at, HorizonProfile(place.spots[1].horizon))
    night, everything = night_at(spot, EVENING), catalogue()
    mjd = night.mjd[night.sun_altitude < np.radians(-18)][::STEP_MIN]
    where = EarthLocation.from_geodetic(place.longitude_deg * u.deg, place.latitude_deg * u.deg, place.height_m * u.m)
    sky = SkyCoord(everything.ra[:, None] * u.rad, everything.dec[:, None] * u.rad)

    def ours() -> np.ndarray:
        return sine_altitudes(star_vectors(everything.icrs, float(mjd[mjd.size // 2])), mjd, spot)

    def theirs() -> np.ndarray:
        return np.asarray(sky.transform_to(AltAz(obstime=Time(mjd, format="mjd", scale="utc")[None, :], location=where)).alt.rad)

    own, mine = best_of(ours, 9)
    other, reference = best_of(theirs, 2)
    print(f"{len(everything.entries):,} entries, {mjd.size} steps of {STEP_MIN} minutes")
    print(f"altitudes, ours     {own * 1e3:9.1f} ms")
    print(f"altitudes, astropy  {other * 1e3:9.1f} ms")
    print(f"ratio               {other / own:9.0f} x")
    print(f"largest difference  {np.degrees(np.abs(np.arcsin(np.asarray(mine)) - np.asarray(reference))).max() * 3600:9.1f} arcsec")
    rig, everywhere = HERON.rig(), Wanted(smallest_percent=0, largest_percent=1e9)
    whole, _ = best_of(lambda: rank(everything, rig, night, Choices(), everywhere), 7)
    usual, _ = best_of(lambda: rank(everything, rig, night, Choices(), Wanted()), 7)
    print(f"the whole ranking   {whole * 1e3:9.1f} ms; of what fits the frame {usual * 1e3:.1f} ms")
    year, _ = best_of(lambda: year_calendar(spot, TARGETS[1], EVENING, Choices()), 5)
    print(f"365 nights of one   {year * 1e3:9.1f} ms")


if __name__ == "__main__":
    main()
