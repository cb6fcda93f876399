"""Whether the celestial pole can be used from a spot. The one rule of every page."""

from dataclasses import dataclass

import numpy as np

from widedusk.core.pole.axis import aim
from widedusk.core.scene import Spot

LOWEST_POLE_DEG, HIGHEST_POLE_DEG = 5.0, 85.0  # common practice, no source


@dataclass(frozen=True)
class PoleMark:
    """Where the pole one aligns on is seen, and how high the horizon profile reaches there."""

    azimuth_deg: float
    altitude_deg: float
    horizon_deg: float
    hidden: str  # empty when it can be used; else a sentence that says why not

    @property
    def free_deg(self) -> float:
        return self.altitude_deg - self.horizon_deg


def pole_mark(spot: Spot) -> PoleMark:
    """The pole of this hemisphere as the air lifts it."""
    side, azimuth = ("south", 180.0) if spot.observer.south else ("north", 0.0)
    altitude = float(np.degrees(aim(spot.observer, "refracted")[0]))
    horizon = float(np.degrees(spot.horizon.altitude_at(np.radians(azimuth))))
    hidden = ""
    if altitude < LOWEST_POLE_DEG:
        hidden = f"The pole stands {altitude:.1f}° high in the {side}, lost in haze: no star near it can be used here."
    elif horizon > altitude:
        hidden = (
            f"The {side} pole, {altitude:.1f}° high, is hidden at {spot.name}: the horizon profile reaches {horizon:.0f}° there."
        )
    elif altitude > HIGHEST_POLE_DEG:
        hidden = f"The pole stands {90 - altitude:.1f}° from the zenith: few heads tilt that far, and azimuth loses its meaning."
    return PoleMark(azimuth, altitude, horizon, hidden)


def pole_hidden(spot: Spot) -> str:
    """Empty when the pole can be used from here; else a sentence that says why not."""
    return pole_mark(spot).hidden
