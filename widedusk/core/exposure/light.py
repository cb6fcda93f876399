"""Electrons: from surface brightness to signal and noise in one pixel."""

import numpy as np

from widedusk.core.kit.optics import ARCSEC_PER_RADIAN
from widedusk.core.sky.time import Floats

PHOTONS_V0 = 1.0e4  # photons s⁻¹ cm⁻² nm⁻¹ for V = 0; Bessell 1979, PASP 91, 589 (about 1000 per Å)


def electrons_per_s(
    surface_mag: Floats | float, pitch_um: Floats | float, f_number: Floats | float, response_nm: Floats | float
) -> Floats:
    """Electrons per second in one pixel from an evenly bright sky, in V mag/arcsec²; arrays broadcast.

    E = PHOTONS_V0 10^(-0.4 mu) (pi/4) (206265 p/N)² B with p in cm. The focal length cancels: a longer lens of the
    same f-number has more area and a smaller pixel on the sky.
    """
    pitch_cm = np.asarray(pitch_um) * 1e-4
    area_solid_angle = np.pi / 4.0 * (ARCSEC_PER_RADIAN * pitch_cm / np.asarray(f_number)) ** 2
    return np.asarray(PHOTONS_V0 * 10.0 ** (-0.4 * np.asarray(surface_mag)) * area_solid_angle * response_nm)


def signal_to_noise(
    signal_e_s: Floats | float,
    background_e_s: Floats | float,
    read_noise_e: Floats | float,
    exposure_s: Floats | float,
    frames: Floats | float = 1.0,
) -> Floats:
    """Signal to noise of one pixel over n subs: n S t / sqrt(n ((S + E) t + R²)); arrays broadcast.

    background_e_s is sky and dark current together. Source: the CCD equation, Howell, Handbook of CCD Astronomy;
    Mortara & Fowler 1981.
    """
    t = np.asarray(exposure_s, dtype=float)
    variance = (np.asarray(signal_e_s) + background_e_s) * t + np.asarray(read_noise_e) ** 2
    return np.asarray(np.sqrt(frames) * signal_e_s * t / np.sqrt(variance))


def sky_limited_s(read_noise_e: Floats | float, background_e_s: Floats | float, noise_share: float) -> Floats:
    """Shortest sub for which read noise adds no more than a share q to the noise: R² / (E ((1+q)² - 1))."""
    return np.asarray(np.asarray(read_noise_e) ** 2 / (np.asarray(background_e_s) * ((1.0 + noise_share) ** 2 - 1.0)))


def read_noise_share(read_noise_e: Floats | float, background_e_s: Floats | float, exposure_s: Floats | float) -> Floats:
    """Share q that read noise adds to the noise of a sub: sqrt(1 + R²/(E t)) - 1. Inverse of sky_limited_s."""
    return np.asarray(np.sqrt(1.0 + np.asarray(read_noise_e) ** 2 / (np.asarray(background_e_s) * exposure_s)) - 1.0)


def ceiling_s(full_well_e: Floats | float, background_e_s: Floats | float, share: float) -> Floats:
    """Sub at which the sky alone fills a share of the clip level."""
    return np.asarray(share * np.asarray(full_well_e) / background_e_s)
