"""Electrons: from surface brightness to signal and noise in one pixel."""

import math

import numpy as np

from widedusk.core.kit.optics import ARCSEC_PER_RADIAN
from widedusk.core.sky.brightness import EXTINCTION_V
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA

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


def frames_for(
    snr: Floats | float,
    signal_e_s: Floats | float,
    background_e_s: Floats | float,
    read_noise_e: Floats | float,
    exposure_s: Floats | float,
) -> Floats:
    """Subs (not whole) until one pixel has a signal to noise. Inverse of signal_to_noise; arrays broadcast."""
    once = signal_to_noise(signal_e_s, background_e_s, read_noise_e, exposure_s)
    return np.asarray((snr / once) ** 2)


def sky_limited_s(read_noise_e: Floats | float, background_e_s: Floats | float, noise_share: float) -> Floats:
    """Shortest sub for which read noise adds no more than a share q to the noise: R² / (E ((1+q)² - 1))."""
    return np.asarray(np.asarray(read_noise_e) ** 2 / (np.asarray(background_e_s) * ((1.0 + noise_share) ** 2 - 1.0)))


def read_noise_share(read_noise_e: Floats | float, background_e_s: Floats | float, exposure_s: Floats | float) -> Floats:
    """Share q that read noise adds to the noise of a sub: sqrt(1 + R²/(E t)) - 1. Inverse of sky_limited_s."""
    return np.asarray(np.sqrt(1.0 + np.asarray(read_noise_e) ** 2 / (np.asarray(background_e_s) * exposure_s)) - 1.0)


def ceiling_s(full_well_e: Floats | float, background_e_s: Floats | float, share: float) -> Floats:
    """Sub at which the sky alone fills a share of the clip level."""
    return np.asarray(share * np.asarray(full_well_e) / background_e_s)


def central_share(fwhm_px: Floats | float) -> Floats:
    """Share of a Gaussian star's light that falls into the pixel under its middle: erf(1 / (2 sqrt(2) sigma))²."""
    sigma = np.asarray(fwhm_px, dtype=float) / FWHM_PER_SIGMA
    within = np.frompyfunc(math.erf, 1, 1)(
        0.5 / (np.sqrt(2.0) * sigma)
    )  # of one coordinate; scipy's would be loaded for this alone
    return np.asarray(within, dtype=float) ** 2


def star0_e_s(aperture_cm2: float, response_nm: float, airmass: float) -> float:
    """Electrons per second from a star listed with V = 0: lists stand above the air, which takes k X of it.

    aperture_cm2: of the entrance pupil.
    """
    return float(PHOTONS_V0 * aperture_cm2 * response_nm * 10.0 ** (-0.4 * EXTINCTION_V * airmass))


def clipping_magnitude(
    exposure_s: Floats | float, full_well_e: Floats | float, background_e_s: Floats | float, fwhm_px: float, star0_e_s: float
) -> Floats:
    """V magnitude of the faintest star whose central pixel clips; inf where the sky alone clips: every star does; arrays broadcast.

    star0_e_s: electrons per second from a listed star of magnitude 0, what the air takes already gone: star0_e_s(). Drift spreads
    stars and is left out: brighter ones may escape.
    """
    room = np.asarray(full_well_e) - np.asarray(background_e_s) * exposure_s
    rate = star0_e_s * central_share(fwhm_px)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(np.where(room > 0.0, -2.5 * np.log10(np.maximum(room, 1e-30) / (rate * exposure_s)), np.inf))


def clipping_s(magnitude: float, full_well_e: float, background_e_s: float, fwhm_px: float, star0_e_s: float) -> float:
    """Sub at which a star of a V magnitude begins to clip, seconds. Inverse of clipping_magnitude."""
    star = star0_e_s * 10.0 ** (-0.4 * magnitude) * float(central_share(fwhm_px))
    return float(full_well_e / (star + background_e_s))


def back_of_camera(raw_share: Floats | float) -> Floats:
    """Where a raw level stands on the camera's histogram, 0 left to 1 right.

    The tone curve of IEC 61966-2-1 (sRGB); bodies bend theirs a little more, and each colour is scaled for white balance.
    """
    linear = np.clip(np.asarray(raw_share, dtype=float), 0.0, 1.0)
    return np.asarray(np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1.0 / 2.4) - 0.055))
