"""Which share of sky and of target a pixel records through the filters in the beam.

The camera's `response_nm` is that of an unfiltered pixel of one colour. Through a filter, light spread over the spectrum
is cut by the share of that colour the bands let through; a spectral line passes whole or not at all.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from widedusk.core.kit.parts import Camera, Filter
from widedusk.core.scene import Target

Colour = Literal["blue", "green", "red"]
COLOUR_NM: dict[Colour, tuple[float, float]] = {"blue": (400, 495), "green": (490, 585), "red": (580, 690)}  # from memory
PEAK = 0.9  # what a band lets through at its best: common practice
LINES_NM = {"Hα": 656.3, "[O III]": 500.7}  # wavelengths in air, NIST Atomic Spectra Database
COLOUR_OF = {"Hα": "red", "[O III]": "green"}
# How bright each line is against the brightest, by kind; rough, from memory.
MIX: dict[str, dict[str, float]] = {
    "emission nebula": {"Hα": 1.0, "[O III]": 0.3},
    "cluster with nebula": {"Hα": 1.0, "[O III]": 0.3},
    "supernova remnant": {"Hα": 0.8, "[O III]": 1.0},
    "planetary nebula": {"Hα": 0.7, "[O III]": 1.0},
}
USUAL_MIX = {"Hα": 1.0, "[O III]": 0.4}


@dataclass(frozen=True)
class Response:
    """Shares of what the unfiltered pixel would record, in the colour that shows the target best."""

    colour: Colour
    sky: float
    target: float


@dataclass(frozen=True)
class Through:
    """A camera and what stands in its beam; none of it changes with the night."""

    camera: Camera
    filters: tuple[Filter, ...]

    def gain_mag(self, target: Target) -> float:
        """By how many magnitudes the sky may be brighter behind the filters for a target to take no longer than without them.

        Under the sky's own noise time goes as sky / target²; both are taken through the filters and without. Never negative: a
        filter that costs time makes no moonlight worse. Moonlight is taken to lie in the filter as the sky does.
        """
        if not self.filters:
            return 0.0
        behind, bare = response(self.camera, self.filters, target), response(self.camera, (), target)
        if behind.target <= 0.0 or bare.target <= 0.0:
            return 0.0
        return max(float(2.5 * np.log10(behind.target**2 / max(behind.sky, 1e-9) / (bare.target**2 / bare.sky))), 0.0)

    def moon_limit_mag(self, target: Target, limit_mag: float) -> float:
        """How much the Moon may add to the sky at a target, where it may add limit_mag without a filter."""
        return limit_mag + self.gain_mag(target)


def moon_limit_mag(through: Through | None, target: Target, limit_mag: float) -> float:
    """The same where it may not be known what the target is taken with."""
    return through.moon_limit_mag(target, limit_mag) if through else limit_mag


def spread_share(filters: Sequence[Filter], colour: Colour) -> float:
    """Share of light spread evenly over one colour of the sensor."""
    low, high = COLOUR_NM[colour]
    share = 1.0
    for one in filters:
        if not one.bands:
            share *= 2.0**-one.loss_stops
            continue
        inside = sum(max(min(band.high_nm, high) - max(band.low_nm, low), 0.0) for band in one.bands)
        share *= PEAK * min(inside / (high - low), 1.0)
    return share


def line_share(filters: Sequence[Filter], line_nm: float) -> float:
    """Share of a spectral line that the filters let through."""
    share = 1.0
    for one in filters:
        if not one.bands:
            share *= 2.0**-one.loss_stops
        else:
            share *= PEAK if any(band.low_nm <= line_nm <= band.high_nm for band in one.bands) else 0.0
    return share


def response(camera: Camera, filters: Sequence[Filter], target: Target) -> Response:
    """Sky and target through the filters, in the colour with the best signal to noise.

    Targets of lines and continuum count half and half. A stock camera passes `hydrogen_percent` of Hα.
    """
    mix = MIX.get(target.kind, USUAL_MIX)
    lines = {"lines": 1.0, "both": 0.5, "continuum": 0.0}[target.light]
    found = []
    colours: tuple[Colour, ...] = ("green", "red", "blue")
    for colour in colours:
        sky = spread_share(filters, colour)
        signal = (1.0 - lines) * sky
        for name, strength in mix.items():
            if COLOUR_OF[name] == colour:
                taken = camera.hydrogen_percent / 100.0 if name == "Hα" else 1.0
                signal += lines * strength * taken * line_share(filters, LINES_NM[name])
        found.append(Response(colour, sky, signal))
    # Against the sky's noise; green comes first and wins where nothing sets the colours apart.
    return max(found, key=lambda one: one.target / max(one.sky, 1e-9) ** 0.5 if one.target else -1.0)
