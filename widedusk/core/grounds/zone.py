"""The time zone of a place."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from timezonefinder import TimezoneFinder


@cache
def _finder() -> TimezoneFinder:
    from timezonefinder import TimezoneFinder  # noqa: PLC0415 - loaded when a place is entered

    return TimezoneFinder()


def time_zone_at(latitude_deg: float, longitude_deg: float) -> str:
    """Name in the time zone database; at sea a fixed offset such as Etc/GMT+2."""
    return str(_finder().timezone_at(lng=longitude_deg, lat=latitude_deg) or "UTC")
