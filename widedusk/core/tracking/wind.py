"""Gusts: they come at random, and each one spoils the frame that is open.

A long lens that normally holds three minutes holds about one in wind (common practice, no source). With 90 % of frames to be
kept that is one spoiling gust in ten minutes at the scale of a 200 mm lens; half the scale feels twice as many.
"""

from typing import Literal

import numpy as np

from widedusk.core.sky.time import Floats

WindLevel = Literal["none", "light", "fresh", "strong"]
GUST_FREE_S: dict[WindLevel, float] = {"none": np.inf, "light": 1800.0, "fresh": 600.0, "strong": 180.0}
AT_SCALE_ARCSEC_PX = 6.2


def level_for(wind_m_s: float) -> WindLevel:
    """The level a wind speed suggests; bounds are our own."""
    return "none" if wind_m_s < 3.0 else "light" if wind_m_s < 6.0 else "fresh" if wind_m_s < 10.0 else "strong"


def gust_free_s(level: WindLevel, scale_arcsec_px: float) -> float:
    """Mean time between gusts that spoil a frame, seconds."""
    return GUST_FREE_S[level] * scale_arcsec_px / AT_SCALE_ARCSEC_PX


def wind_keeps(exposure_s: Floats | float, gust_free: float) -> Floats:
    """Share of frames that no gust falls into: exp(-t / gust-free time); arrays broadcast."""
    return np.asarray(np.exp(-np.asarray(exposure_s, dtype=float) / gust_free))
