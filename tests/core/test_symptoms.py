"""“Something is wrong” leads somewhere, soon, and to what the signatures say."""

import numpy as np

from widedusk.core.judge.causes import CAUSES
from widedusk.core.judge.symptoms import MOST_QUESTIONS, QUESTION, QUESTIONS, SYMPTOMS, ways


def test_every_way_ends_at_a_cause_by_three_questions_and_every_cause_can_be_reached():
    reached, used = set(), set()
    for symptom in SYMPTOMS:
        found = list(ways(symptom))
        assert len(found) > 1, symptom.key
        for said, cause in found:
            assert 1 <= len(said) <= MOST_QUESTIONS, (symptom.key, said)
            reached.add(cause.key)
        waiting = [symptom.question]
        while waiting:
            used.add(key := waiting.pop())
            waiting += [reply.question for reply in QUESTION[key].replies if reply.question]
    assert reached == {one.key for one in CAUSES}
    assert used == {one.key for one in QUESTIONS}
    for question in QUESTIONS:
        assert all(bool(reply.cause) != bool(reply.question) for reply in question.replies), question.key
        assert len(question.replies) <= 3


def test_signatures_of_the_trade():
    """Common practice, no source (and geometry where it follows): what was seen, and the cause that an experienced eye names."""
    told = {
        ("long", "Some sharp, some long"): "worm",
        ("long", "Longer from frame to frame"): "creep",
        ("long", "All long, about the same", "Twice as long"): "hemisphere",
        ("long", "All long, about the same", "Much shorter", "Sidereal, for stars"): "axis",
        ("scattered", "Yes"): "wind",
        ("corners", "All four alike", "Long"): "coma",
        ("corners", "All four alike", "Round and wide"): "soft corners",
        ("fewer", "Slowly fewer, and it stays", "Wet or dull"): "dew",
        ("fewer", "Comes and goes"): "cloud",
        ("bright", "At once, from one frame on", "Stars too, and it stays"): "settings",
        ("moved", "At once, then steady"): "knock",
        ("streak", "Swells, and ends in the frame"): "meteor",
        ("nothing", "Cap on, or no shutter"): "cap",
        ("timer", "It counts, no shutter opens", "No"): "autofocus",
        ("tracker", "It hums, the camera stays behind"): "slips",
        ("battery", "Swollen, hot, or dead in the cold"): "bad battery",
        ("fogged", "Wet"): "dew",
    }
    found = {(symptom.key, *said): cause.key for symptom in SYMPTOMS for said, cause in ways(symptom)}
    assert {way: found.get(way) for way in told} == told


def test_every_picture_of_a_symptom_lies_in_its_square_and_looks_like_no_other():
    """What is seen is told apart by eye: stars inside the picture, long ones long, round ones round, corners pointing outward."""
    pictures = {one.key: one for one in SYMPTOMS if not one.gear}
    for one in pictures.values():
        assert all(0.0 < star.x < 1.0 and 0.0 < star.y < 1.0 and star.long >= star.short > 0.0 for star in one.stars), one.key
    assert len({(one.stars, one.background, one.line) for one in pictures.values()}) == len(pictures)
    assert all(star.long > 2.0 * star.short for key in ("long", "scattered") for star in pictures[key].stars)
    assert len({star.angle_deg for star in pictures["long"].stars}) == 1
    assert len({star.angle_deg for star in pictures["scattered"].stars}) > 5
    assert all(star.long == star.short for key in ("fat", "fewer", "halo") for star in pictures[key].stars)
    for star in pictures["corners"].stars:
        off = (star.angle_deg - float(np.degrees(np.arctan2(star.y - 0.5, star.x - 0.5)))) % 180.0
        assert min(off, 180.0 - off) < 1.0
    assert pictures["nothing"].stars == () and pictures["bright"].background > 0.3
