"""“Something is wrong” leads somewhere, soon, and to what the signatures say."""

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
        ("corners", "All four away from the middle"): "coma",
        ("fewer", "Slowly fewer, and it stays", "Wet or dull"): "dew",
        ("fewer", "Comes and goes"): "cloud",
        ("bright", "At once, from one frame on", "Stars too, and it stays"): "settings",
        ("moved", "At once, then steady"): "knock",
        ("streak", "Swells, and ends in the frame"): "meteor",
        ("nothing", "Cap on, or no shutter"): "cap",
    }
    found = {(symptom.key, *said): cause.key for symptom in SYMPTOMS for said, cause in ways(symptom)}
    assert {way: found.get(way) for way in told} == told
