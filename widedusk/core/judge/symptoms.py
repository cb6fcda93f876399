"""From what is seen on the back of the camera to the likely cause, by three questions at most.

The questions are those that a person can answer in the dark with the last ten frames and a red light.
Common practice, no source; the signatures are those of `causes`.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from widedusk.core.judge.causes import CAUSE, CAUSES, Cause

MOST_QUESTIONS = 3


@dataclass(frozen=True)
class Reply:
    """cause or question: where it leads, by key; one of them is empty."""

    words: str
    cause: str = ""
    question: str = ""


@dataclass(frozen=True)
class Question:
    key: str
    words: str
    replies: tuple[Reply, ...]


@dataclass(frozen=True)
class StarShape:
    """A star on a small picture: place, half axes and angle; in shares of its side, y down. halo: radius, or nothing."""

    x: float
    y: float
    long: float
    short: float
    angle_deg: float = 0.0
    halo: float = 0.0


@dataclass(frozen=True)
class Symptom:
    """background: of the small picture, 0 dark to 1 bright. line: a streak across it. gear: a trouble of the equipment, without a
    picture."""

    key: str
    words: str
    question: str
    stars: tuple[StarShape, ...]
    background: float = 0.0
    line: bool = False
    gear: bool = False


@dataclass(frozen=True)
class Knowledge:
    """Everything that answers “something is wrong”."""

    symptoms: tuple[Symptom, ...]
    questions: tuple[Question, ...]
    causes: tuple[Cause, ...]


def _places() -> Iterator[tuple[int, float, float]]:
    """Nine places of a small picture, a little off a square grid."""
    for number in range(9):
        row, column = divmod(number, 3)
        yield number, 0.2 + 0.3 * column + 0.03 * np.sin(2.0 + number * 2.3), 0.2 + 0.3 * row + 0.03 * np.cos(number * 1.7)


SPOT = 0.022


def _alike(long: float, short: float = SPOT, angle_deg: float = 0.0, halo: float = 0.0) -> tuple[StarShape, ...]:
    return tuple(StarShape(x, y, long, short, angle_deg, halo) for _, x, y in _places())


def _scattered() -> tuple[StarShape, ...]:
    return tuple(StarShape(x, y, 0.055, SPOT, float(number * 67 % 180)) for number, x, y in _places())


def _outward() -> tuple[StarShape, ...]:
    """Longer the farther from the middle, and along the line to it."""
    found = []
    for _, x, y in _places():
        away = float(np.hypot(x - 0.5, y - 0.5))
        angle = float(np.degrees(np.arctan2(y - 0.5, x - 0.5)))
        found.append(StarShape(x, y, SPOT + 0.11 * away, SPOT, angle))
    return tuple(found)


def _fewer() -> tuple[StarShape, ...]:
    return tuple(StarShape(x, y, SPOT * 0.8, SPOT * 0.8) for number, x, y in _places() if number in {0, 4, 5})


def _moved() -> tuple[StarShape, ...]:
    """Each star, and fainter where it was before."""
    here = tuple(StarShape(x, y, SPOT, SPOT) for _, x, y in _places())
    before = tuple(StarShape(one.x - 0.09, one.y + 0.05, SPOT * 0.5, SPOT * 0.5) for one in here)
    return here + before


SYMPTOMS = (
    Symptom("long", "Long, all the same way", "long", _alike(0.06, angle_deg=25.0)),
    Symptom("scattered", "Each frame another way", "scattered", _scattered()),
    Symptom("corners", "Long towards the corners", "corners", _outward()),
    Symptom("fat", "Fat and round", "fat", _alike(0.05, 0.05)),
    Symptom("fewer", "Fewer and fewer stars", "fewer", _fewer()),
    Symptom("halo", "A halo around stars", "halo", _alike(SPOT, halo=0.075)),
    Symptom("bright", "Brighter and brighter", "bright", _alike(SPOT), 0.45),
    Symptom("nothing", "Nothing at all", "nothing", ()),
    Symptom("moved", "The picture has moved", "moved", _moved()),
    Symptom("streak", "A straight line across", "streak", _alike(SPOT), 0.0, True),
    Symptom("timer", "Timer", "timer does", (), gear=True),
    Symptom("tracker", "Tracker", "tracker runs", (), gear=True),
    Symptom("battery", "Battery", "which battery", (), gear=True),
    Symptom("fogged", "Fogged lens", "wet or frost", (), gear=True),
)

QUESTIONS = (
    Question(
        "long",
        "Look through the last ten frames. Are they all alike?",
        (
            Reply("Some sharp, some long", cause="worm"),
            Reply("All long, about the same", question="how long"),
            Reply("Longer from frame to frame", cause="creep"),
        ),
    ),
    Question(
        "how long",
        "How long, against the trail a still camera would make in this sub?",
        (
            Reply("About as long", cause="stopped"),
            Reply("Twice as long", cause="hemisphere"),
            Reply("Much shorter", question="which rate"),
        ),
    ),
    Question(
        "which rate",
        "Look at the tracker’s switch. Which rate is set?",
        (Reply("Sidereal, for stars", cause="axis"), Reply("Lunar, solar or half", cause="rate")),
    ),
    Question(
        "scattered",
        "Is there wind, or does somebody walk beside the tripod?",
        (Reply("Yes", cause="wind"), Reply("No, all is calm", question="one frame")),
    ),
    Question(
        "one frame",
        "Is it one frame, or many?",
        (
            Reply("One, and the picture sits elsewhere since", cause="knock"),
            Reply("One, and then as before", cause="wind"),
            Reply("Many", cause="creep"),
        ),
    ),
    Question(
        "corners",
        "Which way do the corners point?",
        (
            Reply("All four alike", question="long or wide"),
            Reply("One side is bad, the other good", cause="tilt"),
            Reply("Around a point, like a wheel", cause="rotation"),
        ),
    ),
    Question(
        "long or wide",
        "Are stars there long, away from the middle, or round and wide?",
        (Reply("Long", cause="coma"), Reply("Round and wide", cause="soft corners")),
    ),
    Question(
        "fat",
        "Since when?",
        (Reply("Since the first frame", cause="out of focus"), Reply("Slowly, since a while", question="glass when fat")),
    ),
    Question(
        "glass when fat",
        "Shine the red light along the front glass. Is it wet or dull?",
        (Reply("Wet or dull", cause="dew"), Reply("Clear", cause="focus crept")),
    ),
    Question(
        "fewer",
        "Does it come and go within minutes?",
        (Reply("Comes and goes", cause="cloud"), Reply("Slowly fewer, and it stays", question="glass when fewer")),
    ),
    Question(
        "glass when fewer",
        "Shine the red light along the front glass. Is it wet or dull?",
        (Reply("Wet or dull", cause="dew"), Reply("Clear", question="by eye")),
    ),
    Question(
        "by eye",
        "Look at the target by eye.",
        (Reply("It stands low, or behind something", cause="obstructed"), Reply("The sky itself has fewer stars", cause="haze")),
    ),
    Question(
        "halo",
        "Shine the red light along the front glass. Is it wet or dull?",
        (Reply("Wet or dull", cause="dew"), Reply("Clear", question="lamp near")),
    ),
    Question(
        "lamp near",
        "Do bright stars have a halo by eye too?",
        (Reply("Yes", cause="haze"), Reply("No, but a lamp or the Moon shines on the lens", cause="lamp")),
    ),
    Question(
        "bright",
        "At once, or little by little?",
        (Reply("At once, from one frame on", question="stars too"), Reply("Little by little", question="what rises")),
    ),
    Question(
        "stars too",
        "Are the stars brighter too?",
        (Reply("Stars too, and it stays", cause="settings"), Reply("The background only", cause="lamp")),
    ),
    Question("what rises", "Is the Moon up, or is dawn near?", (Reply("Yes", cause="moon"), Reply("Neither", cause="haze"))),
    Question(
        "nothing",
        "Is the cap off, and do you hear the shutter open?",
        (Reply("Cap on, or no shutter", cause="cap"), Reply("Both are right", question="as on the card")),
    ),
    Question(
        "as on the card",
        "Are time, ISO and stop as the card says?",
        (Reply("No", cause="settings"), Reply("Yes", question="faint discs")),
    ),
    Question(
        "faint discs",
        "Make the view brighter. What is there?",
        (Reply("Large faint discs", cause="out of focus"), Reply("Grey all over", cause="cloud")),
    ),
    Question(
        "moved",
        "At once, or little by little?",
        (Reply("At once, then steady", cause="knock"), Reply("Little by little", question="how it goes on")),
    ),
    Question(
        "how it goes on",
        "Over the last half hour, how does it move?",
        (
            Reply("Back and forth", cause="worm"),
            Reply("Steadily on, the same amount each time", cause="axis"),
            Reply("Faster and faster, or in jerks", cause="creep"),
        ),
    ),
    Question(
        "streak",
        "What is the line like?",
        (
            Reply("Even, from edge to edge", cause="satellite"),
            Reply("Dotted, or with colours", cause="aircraft"),
            Reply("Swells, and ends in the frame", cause="meteor"),
        ),
    ),
    Question(
        "timer does",
        "What does the timer do?",
        (
            Reply("Its display is dark", cause="timer flat"),
            Reply("It counts, no shutter opens", question="focus by hand"),
            Reply("Shutter opens, wrong length or number", cause="settings"),
        ),
    ),
    Question(
        "focus by hand", "Are lens and camera on manual focus?", (Reply("Yes", cause="timer cable"), Reply("No", cause="autofocus"))
    ),
    Question(
        "tracker runs",
        "Look for its lamp, and put an ear to it.",
        (
            Reply("No lamp, no sound", cause="no current"),
            Reply("Lamp on, no sound", cause="stopped"),
            Reply("It hums, the camera stays behind", cause="slips"),
        ),
    ),
    Question(
        "which battery",
        "Which one?",
        (
            Reply("The camera’s is empty", cause="camera battery"),
            Reply("The tracker’s is empty", cause="no current"),
            Reply("Swollen, hot, or dead in the cold", cause="bad battery"),
        ),
    ),
    Question(
        "wet or frost",
        "Shine the red light along the front glass.",
        (Reply("Wet", cause="dew"), Reply("White with frost", cause="frost"), Reply("Dry: it is inside", cause="fog inside")),
    ),
)
QUESTION = {one.key: one for one in QUESTIONS}


def knowledge() -> Knowledge:
    return Knowledge(SYMPTOMS, QUESTIONS, CAUSES)


def ways(symptom: Symptom) -> Iterator[tuple[tuple[str, ...], Cause]]:
    """Every way from a symptom to a cause: the words of each reply, and the cause they lead to."""
    waiting: list[tuple[str, tuple[str, ...]]] = [(symptom.question, ())]
    while waiting:
        key, said = waiting.pop()
        for reply in QUESTION[key].replies:
            if reply.cause:
                yield (*said, reply.words), CAUSE[reply.cause]
            else:
                waiting.append((reply.question, (*said, reply.words)))
