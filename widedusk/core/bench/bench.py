"""The whole bench: an assembly in, its verdicts, the drawing of its moments and the power of the night out."""

from dataclasses import dataclass, replace
from datetime import date, datetime
from functools import lru_cache

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.setting import aperture
from widedusk.core.kit.aperture import optics_verdict
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.back_focus import back_focus_verdict
from widedusk.core.kit.balance import Balance, balance, balance_verdict, lifting_words, residual_g_mm
from widedusk.core.kit.complete import complete_verdict
from widedusk.core.kit.dew import Air
from widedusk.core.kit.dew_verdict import dew_verdict
from widedusk.core.kit.mounting import mounting_verdict
from widedusk.core.kit.parts import Filter, Heater, Shaft, Tracker
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.power import Use, air_for, feeds_of, lanes, power_verdict
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.night.tonight import tonight
from widedusk.core.night.weather import air_of
from widedusk.core.night.windows import night_at, setup_minute
from widedusk.core.pole.axis import Axis
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import MINUTE, Floats, datetime_from_mjd, mjd_from_datetime
from widedusk.core.verdict import Quantity, Verdict

DAY_MIN = 1440


@dataclass(frozen=True)
class Scene:
    """Where and when the rig is to work. The end of the plan needs a target too."""

    spot: Spot
    evening: date
    target: Target | None
    air: Air | None = None  # from set-up to sunrise
    axis: Axis | None = None  # of this rig, as it stood last in this night
    filters: tuple[Filter, ...] | None = None  # chosen for the night; None: as the rig stands


@dataclass(frozen=True)
class Hours:
    """The night as the bench needs it, MJD: from set-up to the end of the plan."""

    begin: float
    end: float
    planned: bool  # the end is that of the card, not the dawn

    @property
    def minutes(self) -> Floats:
        count = max(round((self.end - self.begin) / MINUTE), 1)
        return self.begin + np.arange(count + 1.0) * MINUTE


@dataclass(frozen=True)
class Piece:
    """One part in the drawing; arms in mm, positive on the camera side."""

    name: str
    kind: str
    mass_g: float
    mass: str
    arm_mm: float
    arm: str
    arm_text: str  # with its sign, as it stands in a field
    along_text: str
    along_mm: float
    moment_g_mm: float
    moment: str
    length_mm: float  # of a shaft along the arm; 0 for what is drawn by its mass


@dataclass(frozen=True)
class Drawing:
    """The side view: parts on the arm that crosses the polar axis at right angles."""

    latitude_deg: float
    pieces: tuple[Piece, ...]
    tracker: str
    centre_mm: float
    centre: str
    weight: str | None  # the part that moves
    solved_mm: float | None
    solved: str
    fits: bool
    far_mm: float | None  # ends of the stretch on which the weight can sit
    near_mm: float | None
    torque: str
    heavy_side: str
    lifting: str


@dataclass(frozen=True)
class PowerLane:
    battery: str
    loads: tuple[str, ...]
    watts: float
    uses: tuple[Use, ...]
    lasts_min: int
    runs_out: str  # local clock; empty when it lasts


@dataclass(frozen=True)
class PowerNight:
    """Supplies minute by minute from set-up to the end of the plan."""

    begin: datetime
    time_zone: str
    minutes: int
    planned: bool
    air_c: tuple[float, ...]  # a value every quarter of an hour
    lanes: tuple[PowerLane, ...]
    unfed: tuple[str, ...]


@dataclass(frozen=True)
class Bench:
    verdicts: tuple[Verdict, ...]
    drawing: Drawing
    power: PowerNight | None  # none without a place and a night


def hours_of(assembly: Assembly, scene: Scene, choices: Choices) -> Hours:
    """From set-up to the end of the card where a plan can be worked out, else to dawn."""
    night = night_at(scene.spot, scene.evening)
    down, up = night.sunset_and_sunrise()
    sunset = down if down is not None else float(night.mjd[DAY_MIN // 4])
    sunrise = up if up is not None and up > sunset else sunset + 0.5
    begin = setup_minute(night, choices)
    end, planned = _end(assembly, scene, choices), True
    if end is None or end <= begin:
        _, dawn = night.sun_crossing(np.radians(DARK_SUN_DEG[choices.darkness]))
        end, planned = dawn if dawn is not None and dawn > begin else sunrise, False
    return Hours(begin, max(end, begin + 10 * MINUTE), planned)


def _end(assembly: Assembly, scene: Scene, choices: Choices) -> float | None:
    """When the last dark frame is taken; None when there is no programme."""
    if scene.target is None:
        return None
    try:
        seen = assembly if scene.filters is None else assembly.seen_through(scene.filters[0] if scene.filters else None)
        rig = seen.rig()
    except InvalidInput:
        return None
    answer = tonight(rig, scene.spot, scene.evening, scene.target, choices, axis=scene.axis, air=scene.air)
    exposures = answer.strip.exposures
    if exposures is None or not answer.card.frames:
        return None
    first = mjd_from_datetime(answer.strip.start) + exposures.first * MINUTE
    return first + (answer.card.total_s + answer.card.calibration_s) / 86_400


def _piece(one: Placed, units: Units) -> Piece:
    return Piece(
        one.name,
        one.part.KIND,
        one.mass_g,
        units.mass_words(one.mass_g),
        one.arm_mm,
        units.length_words(abs(one.arm_mm)),
        units.field_text(round(one.arm_mm, 1), "length"),
        units.field_text(round(one.along_mm, 1), "length"),
        one.along_mm,
        one.moment_g_mm,
        units.moment_words(abs(one.moment_g_mm)),
        one.part.length_mm if isinstance(one.part, Shaft) else 0.0,
    )


def _drawing(assembly: Assembly, found: Balance, latitude_deg: float, choices: Choices, units: Units) -> Drawing:
    tracker = assembly.first(Tracker)
    return Drawing(
        latitude_deg,
        tuple(_piece(one, units) for one in assembly.on_tracker),
        tracker.name if tracker else "",
        found.centre_mm,
        units.length_words(abs(found.centre_mm)),
        found.weight.name if found.weight else None,
        found.solved_mm,
        units.length_words(abs(found.solved_mm)) if found.solved_mm is not None else "",
        found.fits,
        found.reach.far_mm if found.reach else None,
        found.reach.near_mm if found.reach else None,
        units.moment_words(abs(found.off_g_mm)),
        "camera side" if found.off_g_mm > 0 else "weight side",
        lifting_words(choices.lifting, latitude_deg),
    )


def _without(topic: str, fault: Fault) -> Verdict:
    return Verdict(topic, "care", fault.message, "an unfinished rig")


def _rig_verdicts(assembly: Assembly, choices: Choices, units: Units) -> tuple[Verdict, Verdict]:
    """Payload and optics, which need a whole rig."""
    try:
        rig = assembly.rig()
    except InvalidInput as caught:
        return _without("Payload", caught.faults[0]), _without("Optics", caught.faults[0])
    payload = payload_verdict(rig, choices.payload_school, choices.payload_percent, units)
    return payload, optics_verdict(rig.camera, rig.lens, aperture(rig, choices), rig.ring_mm, choices.aperture_school)


def _power(assembly: Assembly, scene: Scene, hours: Hours) -> tuple[Verdict, PowerNight]:
    minutes = hours.minutes
    air = air_for(scene.air, minutes)

    def clock(minute: int) -> Quantity:
        return scene.spot.moment("At", float(minutes[0]) + minute * MINUTE)

    found = lanes(assembly, air)
    length = len(minutes) - 1
    fed = {feed.name for feeds in feeds_of(assembly).values() for feed in feeds}
    night = PowerNight(
        datetime_from_mjd(float(minutes[0])),
        scene.spot.time_zone,
        length,
        hours.planned,
        tuple(round(float(value), 1) for value in air[::15]),
        tuple(
            PowerLane(
                lane.battery,
                tuple(f"{feed.name}, {feed.watts:.1f} W" for feed in lane.feeds),
                lane.watts,
                lane.uses,
                lane.lasts_min,
                clock(lane.lasts_min).text if lane.lasts_min < length else "",
            )
            for lane in found
        ),
        tuple(one.name for one in assembly.placed if one.part.draw() and one.name not in fed),
    )
    return power_verdict(assembly, air, scene.air is None, clock), night


@lru_cache(maxsize=64)
def _through_the_night(assembly: Assembly, scene: Scene, choices: Choices) -> tuple[Verdict, Verdict, PowerNight]:
    """What a night does to a rig: power, dew, and the lanes of its batteries; kept for the last few asked."""
    scene = replace(scene, air=scene.air or air_of(night_at(scene.spot, scene.evening), None, choices))
    hours, lens = hours_of(assembly, scene, choices), assembly.lens
    told, power = _power(assembly, scene, hours)

    def clock(mjd: float) -> Quantity:
        return scene.spot.moment("Fogs from", mjd)

    dew = dew_verdict(scene.air, lens.front_mm if lens else None, assembly.all(Heater), choices.dew_school, clock)
    return told, dew, power


def work_out(assembly: Assembly, scene: Scene | None, choices: Choices, units: Units = METRIC, weight: str | None = None) -> Bench:
    """Every verdict on an assembly. `weight` names the counterweight that is to move; without a scene, latitude 45° is drawn.

    Raises InvalidInput for choices that cannot be right.
    """
    latitude = scene.spot.latitude_deg if scene else 45.0
    payload, optics = _rig_verdicts(assembly, choices, units)
    balanced = balance_verdict(assembly, latitude, choices.lifting, choices.lifting_g_cm, choices.dec_school, units, weight)
    verdicts = [payload, balanced, mounting_verdict(assembly, choices.support_school, units), optics, back_focus_verdict(assembly)]
    power = None
    if scene is not None:
        # Only on which side a part sits bears on this: a step of a drag finds it as the step before left it.
        sides = tuple(replace(one, arm_mm=float(np.sign(one.arm_mm)), along_mm=0.0) for one in assembly.placed)
        still = replace(assembly, placed=sides)
        told, dew, power = _through_the_night(still, scene, choices)
        verdicts += [told, dew]
    verdicts.append(complete_verdict(assembly, latitude))
    found_balance = balance(assembly, residual_g_mm(choices.lifting, choices.lifting_g_cm), weight)
    return Bench(tuple(verdicts), _drawing(assembly, found_balance, latitude, choices, units), power)
