"""Whether a JPEG follows the light, judged by its stars: what it holds is light only where it went through the usual curve alone.

A star adds light of which the list knows the amount, up to one zero point for all, on top of a sky at an unknown level. Faint stars
tell how steep the curve is at the sky, bright ones how it bends above; the curve goes through black at nothing. What a camera's own
curve does between black and the sky no star tells, so a sky is told only where the stars suit the usual curve, IEC 61966-2-1, and
hardly any other: that curve alone is weighed against a family of what cameras do.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array

from widedusk.core.frames.read import LINEAR
from widedusk.core.sky.time import Floats

# What cameras do to light before they write it: brighter by a power, then mid-tones pushed apart. All figures are our own.
POWERS, CONTRASTS = (0.4, 1.4), (-0.5, 1.0)
FAMILY = ((0.9, 0.35), (0.2, 0.5))  # power and contrast, each with its standard deviation
USUAL = (1.0, 0.0)  # of a file that follows the light
USUAL_SHARE = 0.7  # of all files, before a star is looked at
COARSE, FINE = (11, 7), (15, 9)  # curves tried over all of that, then where they suit the stars
SUITS = 12.0  # in chi squared over the best
CODES = 4096  # of a curve's table
MIN_SCATTER = 0.03  # magnitudes, of listed stars against a camera's band when their colour is taken off
RIDGE = 1e-12  # of the weights: stars of one colour tell no slope
OUTLIER_SIGMAS = 3.0  # standard deviations from which a star says little: a double, a variable, a hot pixel


@dataclass(frozen=True)
class Curved:
    """The sky under all curves that suit the stars: magnitude less 2.5 log of its light in a pixel, and its standard deviation.

    usual: how likely the file went through nothing but the usual curve, 0 to 1. colour_slope: magnitudes of the zero point a
    magnitude of colour; None where it was not fitted.
    """

    zero_less_sky: float
    sigma: float
    usual: float
    colour_slope: float | None


_AT = np.linspace(0.0, 1.0, CODES)
_LIGHT = np.interp(_AT, np.arange(256) / 255.0, LINEAR)


def _light_of_codes(power: float, contrast: float) -> Floats:
    """The light behind each code from 0 to 1, where the camera raised and pushed apart what it encoded as is usual."""
    raised = _AT**power
    drawn = (1.0 - contrast) * raised + contrast * raised * raised * (3.0 - 2.0 * raised)
    return np.asarray(np.interp(_AT, np.maximum.accumulate(drawn), _LIGHT))


def _codes(light: Floats) -> NDArray[np.intp]:
    """Places in the table of light that was decoded by the usual curve, IEC 61966-2-1, alone."""
    bare = np.clip(light, 0.0, 1.0)
    encoded = np.where(bare <= 0.0031308, 12.92 * bare, 1.055 * bare ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(encoded * (CODES - 1)), dtype=np.intp)


def sky_under_curves(added: Floats, sky: float, noise: float, v: Floats, colour: Floats | None) -> Curved | None:
    """The sky against stars whose picture went through a curve nobody knows.

    added: what each star adds to the sky, (stars, pixels), 0 outside its circle; sky: its level; noise: of one pixel; all as
    decoded by the usual curve, clip level 1. v: listed magnitudes, colour: of the stars less that of the sky,
    where it is to be fitted.
    None where no curve suits.
    """
    codes = _codes(sky + added)
    inside = added != 0.0
    asked = _Asked(_counts(codes, inside), inside.sum(axis=1), int(_codes(np.array(sky))), v, colour)
    photon_sigma = 1.0857 * noise * np.sqrt(asked.pixels) / np.maximum(added.sum(axis=1), 1e-9)
    suiting = _fits(asked, photon_sigma, 0.1, _grid(POWERS, CONTRASTS, COARSE))
    if not suiting:
        return None
    # The scatter of the stars is that about the curve that suits them best.
    scatter = max(min(suiting, key=lambda one: one.misfit + one.unlikely).scatter, MIN_SCATTER)
    suiting = _fits(asked, photon_sigma, scatter, np.array([one.curve for one in suiting]))
    least = min(one.misfit + one.unlikely for one in suiting)
    near = np.array([one.curve for one in suiting if one.misfit + one.unlikely < least + SUITS])
    ends = [
        (max(low - step, ends[0]), min(high + step, ends[1]))
        for low, high, ends, step in (
            (near[:, k].min(), near[:, k].max(), ends, (ends[1] - ends[0]) / (COARSE[k] - 1))
            for k, ends in enumerate((POWERS, CONTRASTS))
        )
    ]
    fine = _fits(asked, photon_sigma, scatter, _grid(ends[0], ends[1], FINE))
    steps = [(high - low) / (count - 1) for (low, high), count in zip(ends, FINE, strict=True)]
    density = steps[0] * steps[1] / (2.0 * np.pi * FAMILY[0][1] * FAMILY[1][1])
    candidates = [(one, (1.0 - USUAL_SHARE) * density, one.misfit + one.unlikely) for one in fine]
    plain = next(iter(_fits(asked, photon_sigma, scatter, np.array([USUAL]))), None)
    if plain is not None:
        candidates.append((plain, USUAL_SHARE, plain.misfit))
    misfit, sky_at = np.array([one for _, _, one in candidates]), np.array([one.zero_less_sky for one, _, _ in candidates])
    weight = np.array([one for _, one, _ in candidates]) * np.exp(-0.5 * (misfit - misfit.min()))
    weight /= weight.sum()
    mean = float(weight @ sky_at)
    spread = float(np.sqrt(weight @ (sky_at - mean) ** 2))
    likeliest = candidates[int(np.argmax(weight))][0]
    return Curved(
        mean, float(np.hypot(spread, likeliest.sigma)), float(weight[-1]) if plain is not None else 0.0, likeliest.colour_slope
    )


def _grid(powers: tuple[float, float], contrasts: tuple[float, float], counts: tuple[int, int]) -> Floats:
    """Power and contrast of each curve, (curves, 2)."""
    both = np.meshgrid(np.linspace(*powers, counts[0]), np.linspace(*contrasts, counts[1]), indexing="ij")
    return np.stack(both, axis=-1).reshape(-1, 2)


def _counts(codes: NDArray[np.intp], inside: NDArray[np.bool_]) -> csr_array:
    """How many pixels of each star have each code, (stars, CODES)."""
    star, pixel = np.nonzero(inside)
    return csr_array(coo_array((np.ones(star.size), (star, codes[star, pixel])), shape=(len(codes), CODES)))


@dataclass(frozen=True)
class _Asked:
    counts: csr_array  # of the codes of every star's pixels with the sky, (stars, CODES)
    pixels: NDArray[np.intp]  # of every star
    sky_code: int
    v: Floats
    colour: Floats | None


@dataclass(frozen=True)
class _Fit:
    """The stars under one curve. misfit: their chi squared; unlikely: that of the curve within the family."""

    curve: tuple[float, float]
    misfit: float
    unlikely: float
    zero_less_sky: float
    sigma: float
    colour_slope: float | None
    scatter: float  # magnitudes


def _fits(asked: _Asked, photon_sigma: Floats, scatter: float, curves: Floats) -> list[_Fit]:
    """The stars under each of many curves (curves, 2), less those that no star suits. photon_sigma: standard deviation of each
    star's light by its pixels' noise, scatter: what comes to it, magnitudes."""
    tables = np.stack([_light_of_codes(*one) for one in curves])
    skies = tables[:, asked.sky_code]
    lights = (asked.counts @ tables.T).T - asked.pixels * skies[:, None]
    sound = (skies > 0.0) & np.all(lights > 0.0, axis=1)
    curves, skies, lights = curves[sound], skies[sound], lights[sound]
    if not len(curves):
        return []
    columns = np.stack([np.ones(asked.v.size), *([] if asked.colour is None else [asked.colour])], axis=1)
    zeros, sigmas, off = _zero_points(columns, asked.v + 2.5 * np.log10(lights), np.hypot(scatter, photon_sigma))
    misfits = np.sum(np.log1p((off / OUTLIER_SIGMAS) ** 2), axis=1) * OUTLIER_SIGMAS**2
    usual, spread = np.array(FAMILY).T
    unlikely = np.sum(((curves - usual) / spread) ** 2, axis=1)
    scatters = 1.4826 * np.median(np.abs(off), axis=1) * scatter
    return [
        _Fit(
            (float(curve[0]), float(curve[1])),
            float(misfit),
            float(odd),
            float(zero[0]) - 2.5 * float(np.log10(sky)),
            float(sigma),
            float(zero[1]) if zero.size > 1 else None,
            float(wide),
        )
        for curve, misfit, odd, zero, sky, sigma, wide in zip(
            curves, misfits, unlikely, zeros, skies, sigmas, scatters, strict=True
        )
    ]


def _zero_points(columns: Floats, zero: Floats, sigma: Floats) -> tuple[Floats, Floats, Floats]:
    """Under each curve: zero point at the sky's colour with its slope in colour where that is a column, (curves, columns); its
    standard deviation, (curves,); and what each star is off by in its own, (curves, stars); far ones count less."""
    share, one = np.broadcast_to(1.0 / sigma**2, zero.shape), np.eye(columns.shape[1])
    for _ in range(4):
        normal = np.einsum("ks,si,sj->kij", share, columns, columns, optimize=True) + RIDGE * share.sum(axis=1)[:, None, None] * one
        found = np.linalg.solve(normal, ((share * zero) @ columns)[:, :, None])[:, :, 0]
        off = (zero - found @ columns.T) / sigma
        share = 1.0 / (sigma**2 * (1.0 + (off / OUTLIER_SIGMAS) ** 2))
    spread = np.linalg.pinv(np.einsum("ks,si,sj->kij", share, columns, columns, optimize=True))
    return found, np.sqrt(spread[:, 0, 0]), off
