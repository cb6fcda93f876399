"""Time scales. Inside the core a time is a UTC modified Julian date (float or array).

UT1 is taken as UTC: that costs at most 0.9 s, 13.5 arcsec of hour angle, and needs no Earth-rotation table,
so nothing here ages or asks the network.
"""

from datetime import UTC, date, datetime, timedelta

import erfa
import numpy as np
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput

Floats = NDArray[np.float64]

JD_OF_MJD_0 = 2400000.5
MINUTE = 1.0 / 1440.0
SECOND = 1.0 / 86400.0
_MJD_0 = datetime(1858, 11, 17, tzinfo=UTC)

FIRST_NIGHT = date(1973, 1, 1)
LAST_NIGHT = date(2099, 12, 31)


def _leap_second_table() -> tuple[Floats, Floats]:
    """MJD from which each TAI-UTC offset holds, and the offset in seconds. Source: IERS Bulletin C, as in ERFA."""
    table = erfa.leap_seconds.get()
    days = np.array([(date(int(row["year"]), int(row["month"]), 1) - _MJD_0.date()).days for row in table], dtype=float)
    return days, np.asarray(table["tai_utc"], dtype=float)


_LEAP_MJD, _TAI_MINUS_UTC_S = _leap_second_table()


def mjd_from_datetime(moment: datetime) -> float:
    """UTC MJD of an aware datetime."""
    return (moment - _MJD_0) / timedelta(days=1)


def datetime_from_mjd(mjd: float) -> datetime:
    """Aware UTC datetime of an MJD, to the nearest millisecond."""
    return _MJD_0 + timedelta(milliseconds=round(float(mjd) * 86_400_000))


def tt_from_utc(mjd: Floats | float) -> Floats:
    """Terrestrial Time (MJD) from UTC: TT = UTC + (TAI - UTC) + 32.184 s.

    After the last announced leap second the newest offset is kept; a table of future ones cannot exist.
    """
    mjd = np.asarray(mjd, dtype=float)
    offset_s = _TAI_MINUS_UTC_S[np.searchsorted(_LEAP_MJD, mjd, side="right") - 1]
    return mjd + (offset_s + 32.184) * SECOND


def earth_rotation_angle(mjd: Floats | float) -> Floats:
    """Earth rotation angle in radians. Source: IERS Conventions 2010, eq. 5.15 (ERFA era00), with UT1 = UTC."""
    return np.asarray(erfa.era00(JD_OF_MJD_0, np.asarray(mjd, dtype=float)), dtype=float)


def day_words(day: date) -> str:
    """A date that nobody can misread, as every page writes it: 9 Dec 2026."""
    return f"{day:%-d %b %Y}"


def solar_midnight(evening: date, longitude_rad: float) -> float:
    """MJD of the mean solar midnight that ends the evening of `evening` at this longitude (east positive).

    It does not ask the time zone, so a wrong zone shifts the clock that is shown and never the sky.
    Raises InvalidInput for nights outside 1973-2099, where UTC or the ephemerides do not reach.
    """
    if not FIRST_NIGHT <= evening <= LAST_NIGHT:
        raise InvalidInput(
            [
                Fault(
                    "night",
                    evening.isoformat(),
                    f"The night of {day_words(evening)} is outside what can be computed; "
                    f"choose one from {FIRST_NIGHT:%Y} to {LAST_NIGHT:%Y}.",
                )
            ]
        )
    return (evening - _MJD_0.date()).days + 1.0 - longitude_rad / (2.0 * np.pi)
