"""Every choice at both of its ends and with every option, over all pages that read it: each answers, and every figure in the answer
is finite. Beside it extremes of everything at once, drawn at random."""

from dataclasses import fields

import numpy as np
import pytest

from tests.web.conftest import context_of, listed, send
from widedusk.core.choices import Choices
from widedusk.core.kit.described import About

PAGES = (
    "tonight", "exposure", "pole/need", "pole/keeping", "packing", "nights/suits", "nights/panorama", "nights/frame",
    "nights/cues", "nights/together", "nights/lanes", "tonight/better",
)  # fmt: skip
SLOW = ("tonight/better", "nights/lanes", "nights/together", "nights/suits")
EXTREMES = 12
NEEDED = {"fixed_sub_s": 60, "payload_percent": 50}  # by schools that go by a figure of the person's own


def ends() -> list[tuple[str, object]]:
    """Each choice with its least, its most, or one of its options."""
    found: list[tuple[str, object]] = []
    for one in fields(Choices):
        about: About = one.metadata["about"]
        if about.sort in {"number", "whole"}:
            sort = int if about.sort == "whole" else float
            found += [(one.name, sort(about.low)), (one.name, sort(about.high))]
        found += [(one.name, option) for option in about.options]
    return found


def walk(client, context: dict, pages: tuple[str, ...], choices: dict, caplog) -> list[str]:
    """What went wrong: no answer though nothing in the question was refused by its field, or a figure that is none."""
    wrong = []
    for page in pages:
        caplog.clear()
        asked = {**context, **NEEDED, **choices}
        answer = client.get(f"/api/{page}", asked)
        while answer.status_code == 422 and (
            named := {one["field"] for one in answer.json()["faults"]} & set(asked) - set(context)
        ):
            asked = {name: value for name, value in asked.items() if name not in named}  # refused by its field: go on without
            answer = client.get(f"/api/{page}", asked)
        if answer.status_code != 200:
            wrong.append(f"{page} {asked}: {answer.status_code} {answer.content[:200]!r}")
        if " is nan" in caplog.text or " is inf" in caplog.text or " is -inf" in caplog.text:
            wrong.append(f"{page} {choices}: {caplog.text[-200:]}")
    return wrong


def bodies(client, context: dict) -> dict[str, dict]:
    """What is sent where a page asks with a body and choices in it."""
    target = next(one for one in listed(client, "targets") if one["id"] == context["target"])
    at = {name: target[name] for name in ("name", "ra_deg", "dec_deg")}
    rig = next(one for one in listed(client, "rigs") if one["id"] == context["rig"])
    night = {name: context[name] for name in ("spot", "night")}
    star = {"altitude_deg": 40, "azimuth_deg": 90, "amount": 5, "unit": "px", "towards": "north", "minutes": 10}
    both = [star, {**star, "altitude_deg": 60, "azimuth_deg": 5}]
    return {
        "framings/ways": {**at, "context": context},
        "framings/nights": {**at, "context": context, "rig": rig["id"], "columns": 2},
        "pole/drift": {"context": context, "stars": both},
        "bench": {**night, "rig": {name: rig[name] for name in ("name", "star_fwhm_px", "focal_mm", "placed")}},
        "nights/whole": {**night, "rigs": [rig["id"]], "wishes": [{"target": target["id"]}]},
    }


def walk_bodies(client, sent: dict[str, dict], choices: dict, caplog) -> list[str]:
    """As above, of what is sent."""
    wrong = []
    for path, body in sent.items():
        caplog.clear()
        asked = {**NEEDED, **choices}
        answer = send(client, path, {**body, "choices": asked})
        while answer.status_code == 422 and (
            named := {one["field"].removeprefix("choices.") for one in answer.json()["faults"]} & set(asked)
        ):
            asked = {name: value for name, value in asked.items() if name not in named}
            answer = send(client, path, {**body, "choices": asked})
        if answer.status_code not in {200, 422}:
            wrong.append(f"{path} {asked}: {answer.status_code} {answer.content[:200]!r}")
        if " is nan" in caplog.text or " is inf" in caplog.text or " is -inf" in caplog.text:
            wrong.append(f"{path} {choices}: {caplog.text[-200:]}")
    return wrong


def test_each_choice_at_its_ends_in_what_is_sent(ours, caplog, pytestconfig, settings):
    settings.WIDE_DUSK_SEARCH_S = 0.1
    context, every = context_of(ours), pytestconfig.getoption("everything")
    sent, wrong = bodies(ours, context), []
    if not every:
        sent.pop("nights/whole")  # slow; what it does with choices is in test_whole_night_worth.py
    for number, (name, value) in enumerate(ends()):
        path = list(sent)[number % len(sent)]
        wrong += walk_bodies(ours, sent if every else {path: sent[path]}, {name: value}, caplog)
    assert not wrong, "\n".join(wrong)


def test_each_choice_at_its_ends(ours, caplog, pytestconfig):
    context, every = context_of(ours), pytestconfig.getoption("everything")
    wrong = []
    for number, (name, value) in enumerate(ends()):
        pages = PAGES if every else (PAGES[0], PAGES[1 + number % 6])  # by turns; all of them by night
        wrong += walk(ours, context, pages, {name: value}, caplog)
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize("seed", range(2))
def test_extremes_of_everything_at_once(ours, caplog, pytestconfig, seed):
    context, dice = context_of(ours), np.random.default_rng(seed)
    by_name: dict[str, list[object]] = {}
    for name, value in ends():
        by_name.setdefault(name, []).append(value)
    wrong = []
    for _ in range(EXTREMES * (4 if pytestconfig.getoption("everything") else 1)):
        drawn = {name: values[int(dice.integers(len(values)))] for name, values in by_name.items() if dice.random() < 0.5}
        pages = tuple(one for one in PAGES if one not in SLOW) if dice.random() < 0.5 else PAGES[:3]
        wrong += walk(ours, context, pages, drawn, caplog)
        sent = bodies(ours, context)
        sent.pop("nights/whole")
        wrong += walk_bodies(ours, sent, drawn, caplog)
    assert not wrong, "\n".join(wrong)
