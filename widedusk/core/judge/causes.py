"""What spoils frames: how each cause shows in a frame and over the run, what to do now, and what to do the next time.

The one account of it: the field asks its way to a cause by what is seen on the back of the camera, Frames gets there by figures.
Common practice, no source, but for what follows from how a tracker turns (`follows`).
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Cause:
    """follows: the signature follows from geometry. note: what is worth writing down."""

    key: str
    name: str
    in_a_frame: str
    over_the_run: str
    now: str
    next_time: str
    note: str
    follows: bool = False


CAUSES = (
    Cause(
        "worm",
        "Periodic error of the worm",
        "All stars long along right ascension, the same everywhere.",
        "Comes and goes with the worm’s period; the picture wanders and returns.",
        "Take a shorter sub. What is sharp in between still counts.",
        "Plan with this tracker’s own periodic error.",
        "Sub length, and how many of ten frames are sharp.",
        True,
    ),
    Cause(
        "axis",
        "The axis is off the pole",
        "All stars long one way, the same in every frame.",
        "The picture drifts on steadily, the same way for hours.",
        "Look at the alignment again; a shorter sub until then.",
        "A better way of aligning, and a look after the payload went on.",
        "How far off the axis is, once it is measured.",
        True,
    ),
    Cause(
        "stopped",
        "The tracker stands still",
        "Every trail as long as a camera on a tripod makes it.",
        "From one frame on, or from the first.",
        "Switch, batteries, cable; start it again and frame anew.",
        "Listen or look that it runs before the first frame; spare cells.",
        "From which frame on.",
        True,
    ),
    Cause(
        "hemisphere",
        "The tracker turns the wrong way",
        "Every trail twice as long as a camera on a tripod makes it.",
        "From the first frame.",
        "Set the hemisphere switch, then frame anew.",
        "The switch is part of the set-up by daylight.",
        "That the switch was wrong.",
        True,
    ),
    Cause(
        "rate",
        "The wrong rate is set",
        "Stars a little long along right ascension, every frame alike.",
        "The picture creeps on, from the first frame.",
        "Set the sidereal rate; the lunar and the half rate are for other things.",
        "The rate is part of the set-up by daylight.",
        "Which rate was set.",
        True,
    ),
    Cause(
        "wind",
        "Wind, or something that shakes",
        "Any direction, double stars or hooks.",
        "Frame by frame another way, worse in gusts.",
        "Shorter sub; legs in, hang a weight below, stand in the lee.",
        "Another spot, or a lower tripod.",
        "The wind, and which sub still holds.",
    ),
    Cause(
        "knock",
        "Something was knocked",
        "One frame double or hooked.",
        "The picture jumps once and then stays.",
        "Look at the axis, then frame again.",
        "Cables tied, a lamp on each leg, a path to walk.",
        "Which frame, and what touched it.",
    ),
    Cause(
        "creep",
        "A cable drags, or the head slips",
        "Long one way, and growing.",
        "The picture creeps, ever the same way, often faster with time.",
        "Tie the cable so that it hangs slack; tighten clamp and clutch; a touch heavier to the east.",
        "A support ring under a long lens; the clutch checked in daylight.",
        "Which way it creeps on the picture.",
    ),
    Cause(
        "focus crept",
        "The focus crept as it cooled",
        "All stars round, but wider.",
        "Wider with the falling temperature, slowly.",
        "Focus again on a bright star, then tape.",
        "Look at the focus every hour.",
        "The temperature when it was good and now.",
    ),
    Cause(
        "out of focus",
        "It was never in focus",
        "Rings or fat round discs.",
        "From the first frame, and it stays.",
        "Focus again on a bright star; tape it.",
        "Magnify the live view before the first frame; tape at once.",
        "That the frames before this one are lost.",
    ),
    Cause(
        "dew",
        "Dew on the glass",
        "Stars wider, with a halo; fewer of them.",
        "Slowly worse over 10 to 40 minutes, and it does not return.",
        "Warm the glass, do not rub it: heater up, a hand warmer, a hair dryer from the car. Cover it meanwhile.",
        "Heater on before the dew hour, hood always.",
        "When it began, and whether the heater was on.",
    ),
    Cause(
        "cloud",
        "Cloud passing",
        "Fewer stars, unevenly.",
        "Comes and goes within minutes.",
        "Let it run; frames under cloud are culled later. Wait when it is thick.",
        "Nothing: the sky decides.",
        "From when until when.",
    ),
    Cause(
        "haze",
        "Haze, smoke or rising fog",
        "Fewer stars everywhere, brighter towards lamps or the Moon.",
        "Slow, and worse near the horizon.",
        "Choose the higher target; frames count less. From smoke or fog on the road go home in time.",
        "A higher place.",
        "When it was first seen.",
    ),
    Cause(
        "low",
        "The target is low, or behind something",
        "Fewer stars on one side, or all.",
        "As the clock goes on, as computed.",
        "Go to the next target of the plan.",
        "Draw this obstacle into the horizon profile.",
        "What stands in the way, and where.",
    ),
    Cause(
        "moon",
        "Moon or twilight",
        "A brighter background with a slope towards it; stars as before.",
        "Smooth, as computed.",
        "Stop at the cue, or go on behind a narrow filter.",
        "Nothing: it was in the plan.",
        "The last frame that is still dark.",
    ),
    Cause(
        "lamp",
        "A lamp or headlights",
        "A brighter background at once, with a slope or a flare.",
        "Single frames.",
        "Shield the lens with the hood or a hand; cull those frames.",
        "Another corner of the place.",
        "Which frames.",
    ),
    Cause(
        "settings",
        "Aperture, ISO or time changed",
        "Background and every star fainter or brighter by the same factor.",
        "One step, and it stays.",
        "Set them back as the card says: stop, ISO, bulb. Some cameras change the stop in bulb.",
        "Read the stop off the display once more after bulb is set.",
        "From which frame on, and what it was.",
    ),
    Cause(
        "coma",
        "Soft corners of the lens",
        "Corners long, away from the middle; the middle round.",
        "The same in every frame.",
        "Stop down by a stop; keep these.",
        "Write down from which stop the corners are good.",
        "The stop at which it was seen.",
        True,
    ),
    Cause(
        "tilt",
        "The lens or adapter sits askew",
        "One side long or fat, the other round.",
        "The same in every frame.",
        "Take the lens off and on again, tighten the adapter; frame and focus anew.",
        "Look at all four corners in the test picture.",
        "Which side.",
        True,
    ),
    Cause(
        "rotation",
        "The field turns about a point",
        "Long around one point, growing outward from it.",
        "The same in every frame.",
        "Look at the alignment again; a shorter sub.",
        "A better axis, and the guide star near the middle.",
        "Where the point lies.",
        True,
    ),
    Cause(
        "cap",
        "Cap on, or the shutter stays shut",
        "No stars at all.",
        "Every frame.",
        "Cap off. With mirror lock-up see that each trigger opens the shutter, not the mirror alone.",
        "Look at the first frame before walking away.",
        "From which frame on.",
    ),
    Cause(
        "satellite",
        "A satellite",
        "One even straight line through the frame.",
        "Single frames.",
        "Keep it: stacking takes it out.",
        "Nothing.",
        "Nothing.",
    ),
    Cause(
        "aircraft",
        "An aircraft",
        "A dotted or coloured line.",
        "Single frames.",
        "Keep it: stacking takes it out.",
        "Nothing.",
        "Nothing.",
    ),
    Cause(
        "meteor",
        "A meteor",
        "A line that swells and ends inside the frame.",
        "One frame.",
        "Keep it, and enjoy it.",
        "Nothing.",
        "The time: meteor watchers are glad of it.",
    ),
)
CAUSE = {one.key: one for one in CAUSES}
