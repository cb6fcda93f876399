"""Room between lens and sensor: does this lens reach infinity through its adapters and filters?"""

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.optics import plate_shift_mm
from widedusk.core.kit.parts import Adapter, Camera, Filter
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

EXACT_MM = 0.1  # what focusing a lens past infinity usually takes up: common practice, no source


def back_focus_verdict(assembly: Assembly) -> Verdict:
    """Compare the room the lens needs, glass included, with what camera and adapters give."""
    lens, camera = assembly.lens, assembly.first(Camera)
    adapters = assembly.all(Adapter)
    behind = [one for one in assembly.all(Filter) if one.sits == "behind the lens"]
    shift = sum(plate_shift_mm(one.thickness_mm, one.index) for one in behind)
    glass = Working(
        "glass",
        "Glass behind the lens",
        "Δ = t (n − 1) / n",
        tuple(Quantity(one.name, text=f"{one.thickness_mm:g} mm, n {one.index:g}") for one in behind),
        Quantity("Focus moves back by", shift, "mm", "Δ", 2),
        "Paraxial shift by a plane plate, standard optics",
        "published",
    )
    level: Level = "go"
    advice = ""
    if lens is None or camera is None:
        return Verdict(
            "Back focus", "care", "Place a camera and a lens to see whether they fit.", "camera and lens", workings=(glass,)
        )
    if lens.flange_mm is None or camera.flange_mm is None:
        sentence, decides = "The lens sits in the camera's own mount.", "no adapter: the flange distances are not both told"
        if adapters:
            level, decides = "care", "unknown flange distances"
            sentence = f"{adapters[0].name} is between them, but a flange distance is missing."
            advice = "Give the flange distance of the camera and what the lens needs, and this becomes a figure."
        elif behind and shift > EXACT_MM:
            advice = (
                f"The filter behind the lens moves the focus back by {shift:.2f} mm: infinity comes before the ring's mark. "
                "Focus on a star, not on the mark."
            )
        return Verdict(
            "Back focus",
            level,
            sentence,
            decides,
            advice,
            (Quantity("Glass adds", shift, "mm", decimals=2, working="glass"),),
            workings=(glass,),
        )
    needed = lens.flange_mm + shift
    given = camera.flange_mm + sum(one.length_mm for one in adapters)
    spare = needed - given
    off = ("Off by" if abs(spare) <= EXACT_MM else "Spacer that is missing" if spare > 0 else "Too long by", abs(spare))
    room = Working(
        "room",
        "Room for spacers",
        "room = F_lens + Δ − F_camera − Σ L",
        (
            Quantity(f"{lens.name} needs", lens.flange_mm, "mm", "F_lens", 2),
            Quantity("Glass adds", shift, "mm", "Δ", 2, working="glass"),
            Quantity(f"{camera.name} takes", camera.flange_mm, "mm", "F_camera", 2),
            *(Quantity(one.name, one.length_mm, "mm", "L", 2) for one in adapters),
        ),
        Quantity(*off, "mm", decimals=2),
        "Sum of distances; a filter moves the focus by about a third of its thickness",
        "published",
    )
    if abs(spare) <= EXACT_MM:
        sentence = f"{given:.2f} mm from flange to sensor is what this lens needs."
    elif needed < camera.flange_mm - EXACT_MM:
        level = "stop"
        sentence = f"The camera alone takes {camera.flange_mm:.2f} mm, the lens wants {needed:.2f} mm: infinity is out of reach."
        advice = "Too little room cannot be mended with a spacer; this lens does not suit this camera."
    elif spare < 0:
        level = "stop"
        sentence = f"{-spare:.2f} mm too much between lens and sensor: infinity is out of reach."
        advice = f"Take out {-spare:.2f} mm of adapter or spacer."
    else:
        level = "care"
        sentence = f"{spare:.2f} mm too little between lens and sensor."
        advice = f"Add a spacer of {spare:.2f} mm; without it the scale is off and the infinity stop lies early."
    return Verdict(
        "Back focus",
        level,
        sentence,
        f"{needed:.2f} mm from flange to sensor, glass included",
        advice,
        (
            Quantity("Needed", needed, "mm", decimals=2, working="room"),
            Quantity("There is", given, "mm", decimals=2, working="room"),
            Quantity(*off, "mm", decimals=2, working="room"),
            Quantity("Glass adds", shift, "mm", decimals=2, working="glass"),
        ),
        (Limit("Off by", "at most", Quantity("Error", EXACT_MM, "mm", decimals=1), True),),
        (room, glass),
    )
