"""How bright the sky is: airmass, natural and town sky, twilight, moonlight.

Surface brightness is in V magnitudes per square arcsecond. Contributions add as fluxes, never as magnitudes.
"""

import numpy as np

from widedusk.core.sky.time import Floats

EXTINCTION_V = 0.2  # magnitudes per airmass; common practice for a clear site, no single source
EXTINCTION_SIGMA = 0.05  # from one clear night and site to another; our own
LOWEST_ALTITUDE = np.radians(3.0)  # the sky models below are not meant for lines of sight nearer the horizon


MOON_RISES = np.radians(50.0 / 60.0)  # below the horizon: its upper limb shows, lifted by 34' of refraction
LEAST_OWN = 0.05  # share of a measured sky that must be the night's own, to tell of it


def flux(magnitude: Floats | float) -> Floats:
    """Relative flux of a magnitude; zero for an infinite one."""
    return np.asarray(10.0 ** (-0.4 * np.asarray(magnitude, dtype=float)))


def magnitude(relative_flux: Floats | float) -> Floats:
    """Magnitude of a relative flux; infinite for none."""
    with np.errstate(divide="ignore"):
        return np.asarray(-2.5 * np.log10(np.asarray(relative_flux, dtype=float)))


def airmass(altitude: Floats | float) -> Floats:
    """Relative optical airmass at an altitude in radians. Source: Kasten & Young 1989, Applied Optics 28, 4735."""
    degrees = np.maximum(np.degrees(altitude), 0.0)
    return np.asarray(1.0 / (np.sin(np.radians(degrees)) + 0.50572 * (degrees + 6.07995) ** -1.6364))


def scattering_airmass(zenith_distance: Floats | float) -> Floats:
    """Path through the scattering air. Source: Krisciunas & Schaefer 1991, PASP 103, 1033, eq. 3."""
    return np.asarray((1.0 - 0.96 * np.sin(zenith_distance) ** 2) ** -0.5)


def dark_sky(zenith_mag: float, altitude: Floats, extinction: float = EXTINCTION_V) -> Floats:
    """Moonless sky away from the zenith: more glowing air along the slant, dimmed by it.

    Source: Krisciunas & Schaefer 1991, eq. 2 (van Rhijn form). Town light domes differ by direction and are not in it.
    """
    path = scattering_airmass(np.pi / 2 - np.maximum(altitude, LOWEST_ALTITUDE))
    return np.asarray(zenith_mag - 2.5 * np.log10(path) + extinction * (path - 1.0))


def moonlight(
    zenith_distance: Floats | float,
    moon_zenith_distance: Floats | float,
    separation: Floats | float,
    phase_angle: Floats | float,
    extinction: float = EXTINCTION_V,
) -> Floats:
    """Scattered moonlight at a line of sight; angles in radians, phase angle 0 at full Moon; infinite when the Moon is down.

    Source: Krisciunas & Schaefer 1991, eqs. 3, 15, 20, 21, with the inner aureole f = 6.2e7 / rho^2 below 10°;
    nanolamberts to magnitudes by Garstang 1986, PASP 98, 364, eq. 19. The Moon's own beam is dimmed by the optical airmass: eq. 3
    is the path of the light that is scattered towards us and ends at 5, by which a rising Moon would light the sky at once.
    """
    zenith_distance, moon_zenith_distance = np.asarray(zenith_distance), np.asarray(moon_zenith_distance)
    alpha, rho = np.degrees(np.abs(phase_angle)), np.degrees(separation)
    outside_air = 10.0 ** (-0.4 * (3.84 + 0.026 * alpha + 4e-9 * alpha**4))
    rayleigh = 10.0**5.36 * (1.06 + np.cos(separation) ** 2)
    mie = np.where(rho >= 10.0, 10.0 ** (6.15 - rho / 40.0), 6.2e7 / np.maximum(rho, 0.25) ** 2)
    sight = scattering_airmass(np.minimum(zenith_distance, np.pi / 2))
    to_moon = airmass(np.pi / 2 - moon_zenith_distance)
    risen = np.clip(1.0 - (moon_zenith_distance - np.pi / 2) / MOON_RISES, 0.0, 1.0)
    beam = risen * outside_air * 10.0 ** (-0.4 * extinction * to_moon)
    nanolamberts = (rayleigh + mie) * beam * (1.0 - 10.0 ** (-0.4 * extinction * sight))
    with np.errstate(divide="ignore"):
        return np.asarray((20.7233 - np.log(nanolamberts / 34.08)) / 0.92104)


_TWILIGHT_END = 1.518 / (2 * 0.057)  # where Patat's parabola is faintest: 13.3°, the Sun at -18.3°


def _patat(x: Floats) -> Floats:
    return 11.84 + 1.518 * x - 0.057 * x**2


def twilight(sun_altitude: Floats | float) -> Floats:
    """Zenith brightness that the Sun below the horizon adds; infinite once it is below -18.3°.

    Source: Patat et al. 2006, A&A 455, 385, V band: 11.84 + 1.518 x - 0.057 x^2, x = Sun's zenith distance - 95°;
    coefficients from memory. The fit contains the night sky itself, which is taken off again as its own faintest
    value; above x = 0 its slope is continued as a straight line, which serves to draw the evening and no more.
    """
    x = np.degrees(np.pi / 2 - np.asarray(sun_altitude)) - 95.0
    observed = np.where(x > 0.0, _patat(x), 11.84 + 1.518 * x)
    added = flux(observed) - flux(_patat(np.asarray(_TWILIGHT_END)))
    return magnitude(np.where(x < _TWILIGHT_END, np.maximum(added, 0.0), 0.0))


def zenith_of(seen_mag: Floats | float, altitude: Floats, added_mag: Floats) -> Floats:
    """Moonless sky at the zenith that a measured one tells of; NaN where nearly all of it was Moon and twilight.

    seen_mag: mag/arcsec² against stars as they are listed, above the air; altitude: radians; added_mag: of Moon and twilight there.
    The inverse of `dark_sky` and `combined`.
    """
    # The sky's own light is not dimmed on its way to us as the stars' is.
    measured = np.asarray(seen_mag, dtype=float) + EXTINCTION_V * airmass(altitude)
    own = flux(measured) - flux(added_mag)
    with np.errstate(invalid="ignore"):
        return np.where(own > LEAST_OWN * flux(measured), magnitude(np.maximum(own, 0.0)) - dark_sky(0.0, altitude), np.nan)


def combined(*parts: Floats) -> Floats:
    """Brightness of several lights together, added as fluxes."""
    return magnitude(sum((flux(part) for part in parts), np.asarray(0.0)))
