"""Balance about the polar axis, and the moment about the declination clamp.

    Σ m r (camera side) = Σ m r (weight side) + wanted residual

r is the distance of each centre of mass from the axis; the shaft counts with its mass at its middle.
"""

from dataclasses import dataclass
from typing import Literal

from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.mounting import BALL_HEAD_FINE_MM
from widedusk.core.kit.parts import Bracket, Counterweight, Shaft, Tracker
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

Lifting = Literal["none", "camera east", "camera west"]
DecSchool = Literal["note", "balance"]
G_MM_PER_G_CM = 10.0
# Bands of our own, no published figure: the tracker's full rating hung this far off the axis.
EVEN_MM, LOPSIDED_MM = 5.0, 30.0
TYPICAL_WEIGHT_ARM_MM = 150.0  # where a missing weight is supposed to go
SMALL_TRACKER_G = 3_000.0  # stands in until a tracker is placed


@dataclass(frozen=True)
class Reach:
    """Where the middle of a weight can sit on its shaft; arms, so negative on the weight side."""

    far_mm: float
    near_mm: float

    def holds(self, arm_mm: float) -> bool:
        return self.far_mm <= arm_mm <= self.near_mm


@dataclass(frozen=True)
class Balance:
    mass_g: float
    camera_side_g_mm: float
    weight_side_g_mm: float  # both sides positive
    wanted_g_mm: float  # residual asked for; positive: the camera side heavier
    centre_mm: float  # arm of the centre of mass of all that is carried
    weight: Placed | None  # the one that moves
    reach: Reach | None
    solved_mm: float | None  # arm at which that weight gives what is wanted, on the shaft or not
    declination_g_mm: float  # positive: heavy at the front
    turning_g: float  # mass that turns with the declination clamp

    @property
    def torque_g_mm(self) -> float:
        """Positive: the camera side is heavier."""
        return self.camera_side_g_mm - self.weight_side_g_mm

    @property
    def off_g_mm(self) -> float:
        return self.torque_g_mm - self.wanted_g_mm

    @property
    def fits(self) -> bool:
        """The solved place is on the shaft, or anywhere on the weight side when no shaft is told."""
        if self.solved_mm is None:
            return False
        return self.reach.holds(self.solved_mm) if self.reach else self.solved_mm < 0


def residual_g_mm(lifting: Lifting, amount_g_cm: float) -> float:
    """Wanted torque so that the drive lifts: heavier to the east, so the camera side when it is there."""
    sign = {"none": 0.0, "camera east": 1.0, "camera west": -1.0}[lifting]
    return sign * amount_g_cm * G_MM_PER_G_CM


def reach_of(assembly: Assembly, weight: Counterweight) -> Reach | None:
    shaft = assembly.where(Shaft)
    if shaft is None or not isinstance(shaft.part, Shaft):
        return None
    room = (shaft.part.length_mm - weight.thickness_mm) / 2.0
    return Reach(shaft.arm_mm - room, shaft.arm_mm + room)


def balance(assembly: Assembly, wanted_g_mm: float = 0.0, weight_name: str | None = None) -> Balance:
    """Moments as they are, and where the movable weight should go. The movable weight is the named one, else the first."""
    carried = assembly.on_tracker
    weights = [one for one in carried if isinstance(one.part, Counterweight)]
    weight = next((one for one in weights if one.name == weight_name), weights[0] if weights else None)
    total = sum(one.moment_g_mm for one in carried)
    mass = sum(one.mass_g for one in carried)
    reach = solved = None
    if weight is not None and isinstance(weight.part, Counterweight):
        reach = reach_of(assembly, weight.part)
        if weight.mass_g:
            solved = (wanted_g_mm - (total - weight.moment_g_mm)) / weight.mass_g
    turning = [one for one in carried if not isinstance(one.part, (Counterweight, Shaft, Bracket)) and one.arm_mm >= 0]
    return Balance(
        mass,
        sum(one.moment_g_mm for one in carried if one.arm_mm > 0),
        -sum(one.moment_g_mm for one in carried if one.arm_mm < 0),
        wanted_g_mm,
        total / mass if mass else 0.0,
        weight,
        reach,
        solved,
        sum(one.mass_g * one.along_mm for one in turning),
        sum(one.mass_g for one in turning),
    )


def _remedy(found: Balance, units: Units, bare: bool) -> str:
    """What to do when no place of the weight will do."""
    if found.weight is None or found.solved_mm is None:
        needed = found.off_g_mm / TYPICAL_WEIGHT_ARM_MM
        if needed <= 0:
            return "Nothing on the weight side is needed; move its parts closer to the axis."
        article = "With a bracket, a" if bare else "A"
        return f"{article} weight of {units.mass_words(needed)}, {units.length_words(TYPICAL_WEIGHT_ARM_MM)} out, would balance it."
    reach = found.reach
    rest = found.torque_g_mm - found.weight.moment_g_mm
    if reach is not None and found.solved_mm < reach.far_mm:
        beyond = reach.far_mm - found.solved_mm
        extra = (rest + found.weight.mass_g * reach.far_mm - found.wanted_g_mm) / -reach.far_mm if reach.far_mm < 0 else 0.0
        more = f"Add {units.mass_words(extra)} at its end, or take" if extra else "Take"
        return f"{more} a shaft {units.length_words(beyond)} longer."
    if reach is not None and found.solved_mm > reach.near_mm and reach.near_mm < 0 and rest > found.wanted_g_mm:
        lighter = (rest - found.wanted_g_mm) / -reach.near_mm
        return f"{found.weight.name} is too heavy even at the root; take one of {units.mass_words(lighter)} or less."
    return "The weight side is too heavy even without this weight; take it off or move parts to the camera side."


def _where(found: Balance, units: Units) -> str:
    if found.weight is None or found.solved_mm is None:
        return ""
    here, there = -found.weight.arm_mm, -found.solved_mm
    way = "out" if there > here else "in"
    return f"Move {found.weight.name} {units.length_words(abs(there - here))} {way}, to {units.length_words(there)} from the axis."


def lifting_words(lifting: Lifting, latitude_deg: float) -> str:
    """How the residual is meant, for either hemisphere."""
    if lifting == "none":
        return ""
    right, pole = ("right", "north") if latitude_deg >= 0 else ("left", "south")
    side = "camera" if lifting == "camera east" else "weight"
    return (
        f"Facing the {pole} pole, east is to your {right}. The drive turns the east side up and over to the west in both "
        f"hemispheres, so with the camera on the {lifting.split()[1]} the {side} side is left a little heavier: the drive lifts "
        "and its gears stay meshed."
    )


def _workings(assembly: Assembly, found: Balance, units: Units, lifting: Lifting, latitude_deg: float) -> tuple[Working, ...]:
    rows = tuple(
        Quantity(one.name, text=f"{units.mass_words(one.mass_g)} × {units.length_words(one.arm_mm)}") for one in assembly.on_tracker
    )
    moments = Working(
        "moments",
        "Moments about the polar axis",
        "M = Σ mᵢ rᵢ",
        rows,
        units.moment_of("Camera side less weight side", found.torque_g_mm, "M"),
        "Law of the lever, standard mechanics",
        "definition",
        "Camera side positive. The shaft counts with its mass at its middle.",
    )
    centre = Working(
        "centre",
        "Centre of mass",
        "r = Σ mᵢ rᵢ / Σ mᵢ",
        (units.moment_of("Moment", found.torque_g_mm, "M", "moments"), units.mass_of("Carried, weights and all", found.mass_g)),
        units.length_of("Centre of mass from the axis", found.centre_mm, "r"),
        "Law of the lever, standard mechanics",
        "definition",
    )
    declination = Working(
        "declination",
        "Moment about the declination clamp",
        "M = Σ mᵢ aᵢ",
        tuple(
            Quantity(one.name, text=f"{units.mass_words(one.mass_g)} × {units.length_words(one.along_mm)}")
            for one in assembly.on_tracker
            if one.along_mm
        ),
        units.moment_of("Heavy at the front", found.declination_g_mm, "M"),
        "Nothing drives declination on a tracker, so it is a note; a clamp that slips lets it swing",
        "common practice",
    )
    made = [moments, centre, declination]
    if found.weight is not None and found.solved_mm is not None:
        made.insert(
            1,
            Working(
                "solved",
                "Where the weight goes",
                "r = (M_wanted − M_rest) / m",
                (
                    units.moment_of("Moment of all the rest", found.torque_g_mm - found.weight.moment_g_mm, "M_rest", "moments"),
                    units.moment_of("Wanted residual", found.wanted_g_mm, "M_wanted"),
                    units.mass_of(found.weight.name, found.weight.mass_g, "m"),
                ),
                units.length_of("Distance from the axis", -found.solved_mm, "−r"),
                "Law of the lever, standard mechanics",
                "definition",
                lifting_words(lifting, latitude_deg),
            ),
        )
    return tuple(made)


def balance_verdict(
    assembly: Assembly,
    latitude_deg: float,
    lifting: Lifting = "none",
    lifting_g_cm: float = 300.0,
    dec_school: DecSchool = "note",
    units: Units = METRIC,
    weight_name: str | None = None,
) -> Verdict:
    """Does the drive carry it evenly, and where does the weight go?"""
    found = balance(assembly, residual_g_mm(lifting, lifting_g_cm), weight_name)
    tracker = assembly.first(Tracker)
    rating = tracker.rating_g if tracker else SMALL_TRACKER_G
    off, even, lopsided = abs(found.off_g_mm), rating * EVEN_MM, rating * LOPSIDED_MM
    heavy = "camera" if found.off_g_mm > 0 else "weight"
    bare = assembly.support != "bracket"
    level: Level = "go" if off <= even else "care" if off <= lopsided or bare else "stop"
    advice = ""
    if tracker is None and assembly.on_tracker:
        return Verdict("Balance", "go", "Nothing to balance: the camera stands still.", "no tracker")
    if not assembly.on_tracker:
        level, sentence = "care", "Nothing is on the tracker yet."
    elif level == "go":
        left = " with the residual you asked for" if found.wanted_g_mm else ""
        sentence = f"Balanced to {units.moment_words(off)}{left}."
    elif bare:
        level = "go" if off <= lopsided else "care"
        sentence = f"{units.moment_words(off)} stay unbalanced: without a bracket the drive carries them."
        short = assembly.lens is None or assembly.lens.focal_mm < BALL_HEAD_FINE_MM
        fine = "Fine for a short lens; a" if short else "A"
        advice = f"{fine} bracket with a counterweight takes the load off." if level == "go" else ""
    else:
        sentence = f"The {heavy} side is {units.moment_words(off)} too heavy."
    if level != "go" and assembly.on_tracker:
        advice = _where(found, units) if found.fits else _remedy(found, units, bare)
    if found.turning_g and abs(found.declination_g_mm) > even:
        end, way = ("front", "back") if found.declination_g_mm > 0 else ("back", "forward")
        slide = units.length_words(abs(found.declination_g_mm) / found.turning_g)
        note = f"Declination is {end}-heavy by {units.moment_words(abs(found.declination_g_mm))}"
        if dec_school == "balance":
            level = "care" if level == "go" else level
            advice = f"{advice} {note}: slide camera and lens {slide} {way} in the clamp.".strip()
        else:
            advice = f"{advice} {note}, a note only: keep its clamp tight.".strip()
    figures = [
        units.moment_of("Camera side", found.camera_side_g_mm, working="moments"),
        units.moment_of("Weight side", found.weight_side_g_mm, working="moments"),
        units.length_of("Centre of mass", found.centre_mm, working="centre"),
        units.moment_of("Declination", found.declination_g_mm, working="declination"),
    ]
    if found.weight is not None and found.solved_mm is not None:
        figures.insert(2, units.length_of("Weight belongs at", -found.solved_mm, working="solved"))
    return Verdict(
        "Balance",
        level,
        sentence,
        f"the load hung {EVEN_MM:.0f} mm off the axis, {units.moment_words(even)}",
        advice,
        tuple(figures),
        (
            Limit("Even", "at most", units.moment_of("Torque", even), level == "go", f"rating × {EVEN_MM:.0f} mm, our own band"),
            Limit(
                "Lopsided", "at most", units.moment_of("Torque", lopsided), level != "go", f"rating × {LOPSIDED_MM:.0f} mm, our own"
            ),
        ),
        _workings(assembly, found, units, lifting, latitude_deg),
        "Tighten every clamp before letting go: counterweights fall on feet." if found.weight else "",
    )
