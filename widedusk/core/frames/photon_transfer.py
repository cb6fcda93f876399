"""Measuring a camera from two flats and two bias frames at one ISO: gain, read noise and full well.

    gain  K = ((F1 + F2) - (B1 + B2)) / (var(F1 - F2) - var(B1 - B2))      e⁻ per count
    noise R = K sd(B1 - B2) / sqrt(2)                                       e⁻

Differences of two frames leave out the pattern of dust, vignetting and hot pixels. Source: Janesick 2007, Photon Transfer (SPIE).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput

Counts = NDArray[np.float32]

LEAST_PIXELS = 10_000
BRIGHTEST = 0.85  # of the way from black to clipping: beyond it some pixels clip
LEAST_SHOT_NOISE = 4.0  # the flats' variance against the bias frames': below it the gain is little but read noise
MOST_FLICKER = 0.05  # difference of the two flats in level


@dataclass(frozen=True)
class SensorFrame:
    """One frame as its file holds it: counts of one colour, nothing taken off; clip: the highest count there can be."""

    name: str
    counts: Counts
    clip: float
    camera: str = ""
    iso: int | None = None


@dataclass(frozen=True)
class Transfer:
    """What came out, each with one standard deviation. Levels in counts."""

    gain_e: float
    gain_sigma: float
    read_noise_e: float
    read_noise_sigma: float
    full_well_e: float
    full_well_sigma: float
    black: float
    flat_level: float
    pixels: int


def _variance(frame: Counts) -> tuple[float, int]:
    """Variance without the few pixels that cosmic rays and telegraph noise throw far off, and how many pixels it rests on."""
    values = frame.ravel().astype(float)
    kept = values
    for _ in range(3):
        middle, spread = float(np.mean(kept)), float(np.std(kept))
        kept = values[np.abs(values - middle) <= 5.0 * max(spread, 1e-9)]
    return float(np.var(kept, ddof=1)), kept.size


def _middle(frame: Counts) -> Counts:
    """The middle half each way, where a flat is flat."""
    height, width = frame.shape
    return frame[height // 4 : height - height // 4, width // 4 : width - width // 4]


def _check(flats: Sequence[SensorFrame], bias: Sequence[SensorFrame]) -> None:
    every = (*flats, *bias)
    faults = []
    if len({one.counts.shape for one in every}) > 1:
        sizes = ", ".join(f"{one.name} {one.counts.shape[1]} × {one.counts.shape[0]}" for one in every)
        faults.append(Fault("pictures", sizes, f"The four frames differ in size ({sizes}); take all with one camera, uncropped."))
    cameras = sorted({one.camera for one in every if one.camera})
    if len(cameras) > 1:
        faults.append(Fault("pictures", ", ".join(cameras), f"The frames come from different cameras: {' and '.join(cameras)}."))
    isos = sorted({one.iso for one in every if one.iso})
    if len(isos) > 1:
        told = f"The frames were taken at ISO {' and '.join(str(iso) for iso in isos)}; all four must share one."
        faults.append(Fault("pictures", isos, told))
    if faults:
        raise InvalidInput(faults)


def photon_transfer(flats: Sequence[SensorFrame], bias: Sequence[SensorFrame]) -> Transfer:
    """Gain, read noise and full well with their uncertainty. Two flats of even light, two bias frames, all at one ISO.

    Raises InvalidInput when the frames do not belong together, clip, or are too dark.
    """
    _check(flats, bias)
    first, second = (_middle(one.counts) for one in flats)
    dark, darker = (_middle(one.counts) for one in bias)
    if first.size < LEAST_PIXELS:
        raise InvalidInput([Fault("pictures", first.size, "The frames are too small to measure; give them whole.")])
    clip = min(one.clip for one in (*flats, *bias))
    level, black = float(first.mean() + second.mean()) / 2.0, float(dark.mean() + darker.mean()) / 2.0
    names = f"“{flats[0].name}” and “{flats[1].name}”"
    if level <= black:
        told = f"{names} are no brighter than the bias frames: give the flats first, then the bias frames."
        raise InvalidInput([Fault("pictures", level, told)])
    share = (level - black) / (clip - black)
    if share > BRIGHTEST or float(np.mean(first >= clip)) > 1e-3:
        told = f"{names} are clipped: they stand {share * 100:.0f} % of the way up. Halve their time and take both again."
        raise InvalidInput([Fault("pictures", round(share, 3), told)])
    flicker = abs(float(first.mean()) - float(second.mean())) / (level - black)
    if flicker > MOST_FLICKER:
        told = f"The two flats differ by {flicker * 100:.0f} % in brightness: the light flickers. Take them longer, or by day."
        raise InvalidInput([Fault("pictures", round(flicker, 3), told)])
    # A little flicker is taken out, so that it does not count as noise.
    ratio = (level - black) / (float(second.mean()) - black)
    flat_variance, pixels = _variance(first - black - (second - black) * np.float32(ratio))
    bias_variance, _ = _variance(dark - darker)
    if bias_variance <= 0.0:
        raise InvalidInput([Fault("pictures", 0, "The two bias frames are the same picture; take two.")])
    if flat_variance < LEAST_SHOT_NOISE * bias_variance:
        told = f"{names} are too dark, {share * 100:.1f} % of the way up: read noise hides the light's. Expose to about half."
        raise InvalidInput([Fault("pictures", round(share, 4), told)])
    return _transfer(level, black, clip, flat_variance, bias_variance, pixels)


def _transfer(level: float, black: float, clip: float, flat_variance: float, bias_variance: float, pixels: int) -> Transfer:
    shot = flat_variance - bias_variance
    gain = 2.0 * (level - black) / shot
    # The variance of n samples is known to sqrt(2 / n) of itself.
    relative = float(np.hypot(flat_variance, bias_variance)) * np.sqrt(2.0 / pixels) / shot
    noise = gain * np.sqrt(bias_variance / 2.0)
    noise_relative = float(np.hypot(relative, 0.5 * np.sqrt(2.0 / pixels)))
    well = gain * (clip - black)
    return Transfer(gain, gain * relative, float(noise), float(noise * noise_relative), well, well * relative, black, level, pixels)
