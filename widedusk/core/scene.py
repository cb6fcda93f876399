"""Where and at what: a spot on the Earth with its horizon, and a target."""

from dataclasses import dataclass, field
from datetime import datetime, tzinfo
from typing import Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.verdict import Quantity


@dataclass(frozen=True)
class Spot:
    """A standing place. Longitude is positive to the east; sky_mag is the moonless zenith in V mag/arcsec²."""

    name: str
    latitude_deg: float
    longitude_deg: float
    height_m: float
    time_zone: str
    sky_mag: float
    horizon: HorizonProfile = field(default_factory=HorizonProfile)
    height_known: bool = True  # else sea level stands in

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("latitude_deg", self.latitude_deg, -90, 90, "°")
        checks.within("longitude_deg", self.longitude_deg, -180, 180, "°")
        checks.within("height_m", self.height_m, -430, 6_500, "m")
        checks.within("sky_mag", self.sky_mag, 14, 22.2, "mag/arcsec²")
        try:
            ZoneInfo(self.time_zone)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            checks.fault("time_zone", self.time_zone, f"{self.time_zone!r} is no time zone; choose one such as Africa/Windhoek.")
        checks.done()

    @property
    def horizon_known(self) -> bool:
        """Whether anybody told what stands round it; else it is taken as open."""
        return bool(self.horizon.points_deg)

    @property
    def observer(self) -> Observer:
        return Observer(np.radians(self.latitude_deg), np.radians(self.longitude_deg), self.height_m)

    @property
    def zone(self) -> tzinfo:
        return ZoneInfo(self.time_zone)

    def local(self, mjd: float) -> datetime:
        """Local time of an MJD, to the nearest minute."""
        return datetime_from_mjd(np.round(mjd * 1440) / 1440).astimezone(self.zone)

    def clock(self, mjd: float) -> str:
        """Local "HH:MM"."""
        return f"{self.local(mjd):%H:%M}"

    def moment(self, name: str, mjd: float, working: str = "") -> Quantity:
        """A clock time as a figure."""
        return Quantity(name, text=self.clock(mjd), moment=datetime_from_mjd(mjd), working=working)


Light = Literal["lines", "continuum", "both"]
KINDS = (
    "galaxy",
    "galaxy group",
    "open cluster",
    "globular cluster",
    "cluster with nebula",
    "emission nebula",
    "reflection nebula",
    "planetary nebula",
    "supernova remnant",
    "nebula",
    "dark cloud",
    "star cloud",
    "Milky Way field",
    "constellation",
    "star",
    "other",
)
LIGHTS: tuple[Light, ...] = ("lines", "continuum", "both")
MOST_EXTENT_DEG = 120.0


@dataclass(frozen=True)
class Target:
    """ICRS place at J2000.0; extent along the long side; surface brightness of what one wants to see."""

    name: str
    ra_deg: float
    dec_deg: float
    extent_deg: float
    surface_mag: float
    width_deg: float | None = None  # short side; none: as wide as long
    angle_deg: float = 0.0  # position angle of the long side, north through east
    kind: str = "other"
    light: Light = "both"  # shines in spectral lines, in continuum, or in both
    numbers: str = ""  # other names and numbers, parted by semicolons
    constellation: str = ""  # abbreviation of the IAU

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("ra_deg", self.ra_deg, 0, 360, "°")
        checks.within("dec_deg", self.dec_deg, -90, 90, "°")
        checks.within("extent_deg", self.extent_deg, 0, MOST_EXTENT_DEG, "°")
        checks.within("surface_mag", self.surface_mag, 10, 30, "mag/arcsec²")
        checks.within("angle_deg", self.angle_deg, 0, 180, "°")
        if self.width_deg is not None:
            checks.within("width_deg", self.width_deg, 0, MOST_EXTENT_DEG, "°")
            if self.width_deg > self.extent_deg:
                checks.fault(
                    "width_deg", self.width_deg, f"The short side may not be longer than the long one, {self.extent_deg:g}°."
                )
        if self.kind not in KINDS:
            checks.fault("kind", self.kind, f"“{self.kind}” is not known; choose one of {', '.join(KINDS)}.")
        if self.light not in LIGHTS:
            checks.fault("light", self.light, f"“{self.light}” is not known; choose lines, continuum or both.")
        checks.done()
