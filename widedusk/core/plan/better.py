"""Which typical value, made one's own, would change a verdict most: each is moved as far as its class may be off, and the night
looked through again."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.kit.parts import IsoStep, Part, Rig, iso_field
from widedusk.core.kit.payload import carried_mass_g
from widedusk.core.plan.outlook import Outlook, outlook
from widedusk.core.pole.axis import Axis, arc_words
from widedusk.core.pole.tolerance import LARGEST_ARCMIN
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.horizon import pressure_at, refraction_from_apparent
from widedusk.core.verdict import duration_words

Topic = Literal["Payload", "Pole", "Exposure"]
Where = Literal["part", "my camera", "test picture"]
# How far a typical value may be off, as factors; from memory.
OFF = {"mass": 1.25, "noise": 1.4, "well": 1.6, "response": 1.3, "periodic error": 1.6, "rating": 1.3, "corners": 1.4}
STAR_OFF_PX = 0.7
WORTH_TELLING, MOST_TOLD = 0.03, 1e3  # of change


@dataclass(frozen=True)
class Better:
    """One value that is typical so far, and what a verdict would say at either end of what it may be."""

    topic: Topic
    what: str
    low: str
    high: str
    change: float  # the larger end over the smaller, less one
    where: Where
    part: str  # its name, where it is a part's field


@dataclass(frozen=True)
class Assumed:
    """What nobody told and something stands in for."""

    key: Literal["horizon", "elevation"]
    what: str


def assumed(spot: Spot) -> tuple[Assumed, ...]:
    """What is taken for granted at a spot."""
    found = []
    if not spot.horizon_known:
        found.append(Assumed("horizon", f"The horizon at {spot.name} is open: nothing that stands in the way is known."))
    if not spot.height_known:
        pole = np.radians(max(abs(spot.latitude_deg), 5.0))
        lower = refraction_from_apparent(pole, pressure_at(0.0)) - refraction_from_apparent(pole, pressure_at(1000.0))
        words = f"its elevation is not known. Each 1000 m lowers the pole by {np.degrees(lower) * 60:.1f}′."
        found.append(Assumed("elevation", f"The place lies at sea level: {words}"))
    return tuple(found)


@dataclass(frozen=True)
class _Doubt:
    what: str
    where: Where
    part: str
    ends: tuple[Rig, Rig]


def _scaled(rig: Rig, part: Part, name: str, factor: float) -> tuple[Rig, Rig]:
    """The rig with one figure of its camera, lens or tracker smaller and larger."""
    place = {"camera": "camera", "lens": "lens", "tracker": "tracker"}[part.KIND]

    def end(times: float) -> Rig:
        value = max(getattr(part, name) * times, getattr(part, "f_widest", 0.0) if name == "f_best" else 0.0)
        return replace(rig, **{place: replace(part, **{name: value})})  # type: ignore[arg-type]

    return end(1.0 / factor), end(factor)


def _steps(rig: Rig, change: Callable[[IsoStep, float], IsoStep], factor: float) -> tuple[Rig, Rig]:
    def end(times: float) -> Rig:
        camera = rig.camera
        return replace(rig, camera=replace(camera, iso_steps=tuple(change(step, times) for step in camera.iso_steps)))

    return end(1.0 / factor), end(factor)


def _doubts(rig: Rig, seen: Outlook, star_by_book: bool) -> Iterator[_Doubt]:
    camera, lens, tracker = rig.camera, rig.lens, rig.tracker
    if camera.origin(iso_field(seen.advice.step.iso)) == "book":

        def noise(step: IsoStep, times: float) -> IsoStep:
            return replace(step, read_noise_e=step.read_noise_e * times)

        def well(step: IsoStep, times: float) -> IsoStep:
            return replace(step, full_well_e=step.full_well_e * times)

        yield _Doubt("the read noise of your camera", "my camera", camera.name, _steps(rig, noise, OFF["noise"]))
        yield _Doubt("the full well of your camera", "my camera", camera.name, _steps(rig, well, OFF["well"]))
    if star_by_book:
        widths = max(rig.star_fwhm_px - STAR_OFF_PX, 1.0), rig.star_fwhm_px + STAR_OFF_PX
        ends = replace(rig, star_fwhm_px=widths[0]), replace(rig, star_fwhm_px=widths[1])
        yield _Doubt("how wide your stars are", "test picture", "", ends)
    fields: tuple[tuple[Part | None, str, str, str], ...] = (
        (camera, "response_nm", "response", "the response of your camera"),
        (lens, "f_best", "corners", "the f-number from which your lens has good corners"),
        (tracker, "pe_half_amplitude_arcsec", "periodic error", "the periodic error of your tracker"),
        (tracker, "rating_g", "rating", "the rated payload of your tracker"),
        (camera, "mass_g", "mass", "the mass of your camera"),
        (lens, "mass_g", "mass", "the mass of your lens"),
    )
    for part, name, kind, what in fields:
        if part is not None and part.origin(name) == "book" and getattr(part, name) > 0:
            yield _Doubt(what, "part", part.name, _scaled(rig, part, name, OFF[kind]))


def _read(rig: Rig, seen: Outlook) -> dict[Topic, tuple[float, str]]:
    """What each verdict says, as a figure and in words: load, what an hour brings, tolerance."""
    light, advice = seen.light, seen.advice
    noise = light.background_e_s + advice.step.read_noise_e**2 / advice.exposure_s
    said = f"f/{light.f_number:.3g}, {duration_words(advice.exposure_s)}, ISO {advice.step.iso}"
    told: dict[Topic, tuple[float, str]] = {"Exposure": (light.target_e_s * (advice.keep / noise) ** 0.5, said)}
    if rig.tracker is not None:
        load = carried_mass_g(rig) / rig.tracker.rating_g
        told["Payload"] = load, f"{load * 100:.0f} % of the rating"
    if 0.0 < seen.tolerance.arcmin < LARGEST_ARCMIN:
        told["Pole"] = seen.tolerance.arcmin, f"within {arc_words(seen.tolerance.arcmin)}"
    return told


def better_numbers(
    rig: Rig, star_by_book: bool, spot: Spot, evening: date, target: Target, choices: Choices, axis: Axis | None = None
) -> tuple[Better, ...]:
    """For each verdict the typical value that would change it most, the largest change first. Raises InvalidInput."""

    def at(one: Rig) -> dict[Topic, tuple[float, str]]:
        return _read(one, outlook(one, spot, evening, target, choices, axis))

    found: dict[Topic, Better] = {}
    for doubt in _doubts(rig, outlook(rig, spot, evening, target, choices, axis), star_by_book):
        low, high = (at(end) for end in doubt.ends)
        for topic in low.keys() & high.keys():
            (first, said), (second, other) = low[topic], high[topic]
            change = max(first, second) / max(min(first, second), 1e-9) - 1.0
            if change < WORTH_TELLING or said == other or (topic in found and found[topic].change >= change):
                continue
            found[topic] = Better(topic, doubt.what, said, other, min(change, MOST_TOLD), doubt.where, doubt.part)
    return tuple(sorted(found.values(), key=lambda one: -one.change))
