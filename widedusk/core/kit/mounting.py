"""Ball head or bracket for this lens, what holds the barrel, and what the legs carry."""

from typing import Literal

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.parts import BallHead, Counterweight, LensRing, Tracker, Tripod, Wedge
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, joined

SupportSchool = Literal["bracket from 100", "ball head to 200"]
# Common practice, no source; between the two the trade disagrees.
BALL_HEAD_FINE_MM, BALL_HEAD_AVOID_MM = 100.0, 200.0
HOLD_BARREL_FROM_MM = 135.0


def _ball_head_level(focal_mm: float, school: SupportSchool) -> Level:
    if focal_mm <= (BALL_HEAD_FINE_MM if school == "bracket from 100" else BALL_HEAD_AVOID_MM):
        return "go"
    return "care" if focal_mm < BALL_HEAD_AVOID_MM else "stop"


def _worse(first: Level, second: Level) -> Level:
    order: tuple[Level, ...] = ("go", "care", "stop")
    return max(first, second, key=order.index)


def mounting_verdict(assembly: Assembly, school: SupportSchool = "bracket from 100", units: Units = METRIC) -> Verdict:
    """Does what holds the camera suit this focal length and mass?"""
    lens, support = assembly.lens, assembly.support
    focal = lens.focal_mm if lens else 0.0
    level: Level = "go"
    notes: list[str] = []
    still = assembly.first(Tracker) is None
    if still and support == "none":
        level, sentence = "care", "The tripod’s head is not in the list: add it, so that it is packed."
    elif still:
        sentence = "The tripod’s head holds the camera."
    elif support == "none":
        level, sentence = "stop", "Nothing holds the camera: place a ball head or a bracket."
    elif lens is None:
        level, sentence = "care", "There is no lens to judge by yet."
    elif support == "ball head":
        level = _ball_head_level(focal, school)
        sentence = {
            "go": f"A ball head is fine for {focal:.0f} mm.",
            "care": f"A ball head at {focal:.0f} mm works, but expect culls.",
            "stop": f"A ball head does not hold {focal:.0f} mm: use a bracket with a counterweight.",
        }[level]
    elif not assembly.all(Counterweight):
        level, sentence = "care", f"The bracket suits {focal:.0f} mm but has no counterweight."
    else:
        sentence = f"Bracket and counterweight suit {focal:.0f} mm."
    if lens and not still and focal >= HOLD_BARREL_FROM_MM and not lens.collar and not assembly.all(LensRing):
        level = _worse(level, "care")
        notes.append("A barrel this long sags: hold it in a ring, touched to it plus a quarter turn, no more.")
    head = assembly.first(BallHead)
    above = sum(one.mass_g for one in assembly.on_tracker if one.part is not head and one.arm_mm >= 0)
    if head and head.rated_g and above > head.rated_g:
        level = _worse(level, "stop")
        notes.append(f"{head.name} is rated for {units.mass_words(head.rated_g)} and holds {units.mass_words(above)}.")
    legs = assembly.first(Tripod)
    standing = sum(one.mass_g for one in assembly.placed if one.carried or isinstance(one.part, (Tracker, Wedge)))
    if legs and legs.rated_g and standing > legs.rated_g:
        level = _worse(level, "stop")
        notes.append(f"{legs.name} is rated for {units.mass_words(legs.rated_g)} and stands under {units.mass_words(standing)}.")
    working = Working(
        "mounting",
        "Ball head or bracket",
        "ball head up to 100 mm; either to 200 mm, expect culls; bracket and counterweight above",
        (
            Quantity("Focal length", focal, "mm", "f", 0),
            Quantity("Held by", text=support if support != "none" else "nothing"),
            Quantity("Your school", text=school),
        ),
        Quantity(
            "Ball head at this length", text={"go": "fine", "care": "disputed", "stop": "avoid"}[_ball_head_level(focal, school)]
        ),
        "Wide agreement on the ends; 100 to 200 mm is disputed",
        "common practice",
    )
    carried = Working(
        "standing",
        "What the legs carry",
        "m = Σ mᵢ of all above the tripod",
        tuple(
            units.mass_of(one.name, one.mass_g) for one in assembly.placed if one.carried or isinstance(one.part, (Tracker, Wedge))
        ),
        units.mass_of("On the tripod", standing, "m"),
        "Sum of the parts listed in the rig",
        "definition",
    )
    decides = joined(
        [note.split(":")[0].split(" is rated")[0].lower() if ":" in note else note.split(" is rated")[0] for note in notes[:1]]
    )
    return Verdict(
        "Mounting",
        level,
        sentence,
        decides or "focal length against what holds it",
        " ".join(notes),
        (
            Quantity("Held by", text=support if support != "none" else "nothing", working="mounting"),
            Quantity("Focal length", focal, "mm", decimals=0),
            units.mass_of("On the tripod", standing, working="standing"),
            Quantity(
                "Barrel held by", text="its collar" if lens and lens.collar else "a ring" if assembly.all(LensRing) else "its mount"
            ),
        ),
        (
            Limit(
                "Ball head",
                "at most",
                Quantity(
                    "Focal length", BALL_HEAD_FINE_MM if school == "bracket from 100" else BALL_HEAD_AVOID_MM, "mm", decimals=0
                ),
                support == "ball head",
            ),
            Limit("Barrel in its mount alone", "at most", Quantity("Focal length", HOLD_BARREL_FROM_MM, "mm", decimals=0)),
        ),
        (working, carried),
    )
