"""One night, one answer: what two pages state of the same night is the same, whatever is asked of them.

A page that is added later joins the list in `told`.
"""

import random
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from tests.web.conftest import listed, send
from tests.web.test_forecast import Handler, do_errands, service  # noqa: F401 - the fixture of a service that answers

FRAMES_APART = 30
EVERYDAY, NIGHTLY = 9, 60  # cases
NIGHTS = ("2026-12-08", "2026-12-10", "2026-12-14", "2026-12-20", "2027-01-02", "2027-01-16", "2026-06-18")
CHOICES: tuple[dict[str, object], ...] = (
    {},
    {"wind_level": "fresh"},
    {"sub_school": "tracks", "keep_percent": 80},
    {"sub_school": "fixed", "fixed_sub_s": 90},
    {"sub_school": "sky"},
    {"tracking": "untracked"},
    {"tracking": "guided in RA"},
    {"iso": 1600, "gap_s": 5},
    {"filter_name": "none"},
    {"alignment_arcmin": 45},
    {"elongation_limit": 1.15, "most_hours": 2.5},
    {"dew_school": "hood", "darkness": "nautical", "setup_time": "19:30"},
)
WEATHER: tuple[dict[str, object], ...] = (
    {},
    {"air_evening_c": 12, "air_low_c": -2, "humidity_percent": 70, "wind_m_s": 2},
    {"air_evening_c": -4, "air_low_c": -14, "humidity_percent": 80},
    {"air_evening_c": 20, "air_low_c": 15, "humidity_percent": 25},
    {"humidity_percent": 92},
)


def told(client, asked: dict, choices: dict) -> dict[str, dict]:
    """What every page says of one night."""
    rig = next(row for row in client.get("/api/rigs").json()["items"] if row["id"] == asked["rig"])
    body = {
        "rig": {name: rig[name] for name in ("name", "star_fwhm_px", "focal_mm", "placed")},
        "kept": asked["rig"],
        "choices": choices,
        **{name: asked[name] for name in ("spot", "night", "target")},
    }
    pages = {
        "tonight": client.get("/api/tonight", {**asked, **choices}),
        "exposure": client.get("/api/exposure", {**asked, **choices}),
        "need": client.get("/api/pole/need", {**asked, **choices}),
        "keeping": client.get("/api/pole/keeping", {**asked, **choices}),
        "cues": client.get("/api/nights/cues", {**asked, **choices}),
        "bench": send(client, "bench", body),
        "compare": client.get("/api/bench/compare", {**asked, **choices, "left": asked["rig"], "right": asked["rig"]}),
    }
    for name, answer in pages.items():
        assert answer.status_code == 200, (name, answer.content[:400])
    return {name: answer.json() for name, answer in pages.items()}


def said(verdicts: list[dict], topic: str) -> dict:
    return next(one for one in verdicts if one["topic"] == topic)


def figure(verdict: dict, name: str) -> dict:
    return next(one for one in verdict["figures"] if one["name"] == name)


def told_of_the_axis(same, pole: dict, good: dict, need: dict, card: dict) -> None:
    """How good the axis must be, by which way, and for which sub."""
    same("tolerance", figure(pole, "Tolerance"), figure(good, "Tolerance"))
    if figure(pole, "Tolerance")["value"] is not None:
        same("tolerance drawn", figure(pole, "Tolerance")["value"], need["need"]["tolerance_arcmin"])
    bound = [limit["name"] for limit in pole["limits"] if limit["binds"]]
    same("way by name", bound, [row["name"] for row in need["need"]["rows"] if row["key"] == need["need"]["advised"]])
    sub = next(one for one in need["at_target"]["workings"][0]["inputs"] if one["name"] == "Sub")
    same("sub at the pole", sub["value"], card["exposure_s"])


def check(pages: dict[str, dict]) -> list[str]:
    """What two pages tell differently."""
    tonight, exposure, need, bench = (pages[name] for name in ("tonight", "exposure", "need", "bench"))
    verdicts, card = tonight["verdicts"], tonight["card"]
    apart = []

    def same(what: str, *values: object) -> None:
        if any(value != values[0] for value in values[1:]):
            apart.append(f"{what}: {values}")

    in_hand = exposure["stops"][exposure["at"]]
    same("card", card, exposure["card"])
    reading = exposure["window"]["reading"]
    same("sub", card["exposure_s"], exposure["advised_s"], in_hand["reading"]["exposure_s"], reading["exposure_s"])
    same("frames", card["frames"], in_hand["frames"])
    same("frames kept", card["kept_frames"], in_hand["kept_frames"])
    left, right = (pages["compare"][side]["verdicts"] for side in ("left", "right"))
    same("exposure", *(said(one, "Exposure") for one in (verdicts, exposure["verdicts"], left)))
    same("ISO", [row["iso"] for row in exposure["isos"] if row["chosen"]], [exposure["iso"]])
    if card["frames"]:
        same("clocks", *((page["start_clock"], page["end_clock"]) for page in (tonight, exposure)))
    pole, good = said(verdicts, "Pole"), need["need"]["verdict"]
    tracks = need["tracks"]
    same("tracks", tracks, exposure["tracking"] != "untracked", tonight["dial"] is not None)
    same("way", pole["sentence"], good["sentence"], said(right, "Pole")["sentence"])
    if tracks:
        told_of_the_axis(same, pole, good, need, card)
    # Window, the card and Tonight name the same limits with the same ends, and the sub stands among them.
    told = {span["name"]: span["from_s"] if span["to_s"] is None else span["to_s"] for span in exposure["window"]["spans"]}
    for one in (verdicts, exposure["verdicts"]):
        bars = [(limit["name"], limit["quantity"]["value"]) for limit in said(one, "Exposure")["limits"]]
        same("limits", {**told, "The sub": card["exposure_s"]}, dict(bars))
        ends = [value for name, value in bars[1:] if value is not None]
        same("order of limits", ends, sorted(ends))
    paths = next(one for one in said(exposure["verdicts"], "Exposure")["workings"] if one["key"] == "keep")["inputs"]
    along, across = (next(one["value"] for one in paths if one["name"] == f"Drift along {way}") for way in ("RA", "dec"))
    trail = figure(need["at_target"], "Trail")["value"]
    same("trail", abs(trail - (along**2 + across**2) ** 0.5 / 60 * card["exposure_s"]) < 1e-6, True)
    if "enough" in pages["keeping"]["verdict"]["sentence"] and tracks and figure(pole, "Tolerance")["value"] is not None:
        shown = figure(pole, "Tolerance")["value"]
        words = f"{shown / 60:.1f}°" if shown >= 90 else f"{shown:.1f}′" if shown < 9.95 else f"{shown:.0f}′"
        same("tolerance when looking again", f"{words} are enough" in pages["keeping"]["verdict"]["sentence"], True)
    looks = min(max(card["frames"] - 1, 0) // FRAMES_APART, 12) if tonight["start_clock"] and tracks else 0
    same("looks", len(pages["keeping"]["times"]), looks)
    dew = said(bench["verdicts"], "Dew")
    cue = next((one["clock"] for one in tonight["cues"] if one["key"] == "dew"), "")
    if dew["figures"]:
        fogs = figure(dew, "Fogs from")["text"]
        same("dew", fogs if fogs != "not this night" else "", cue)
    else:
        same("dew", "", cue)
    same("dew in the calendar", "Dew on the glass" in pages["cues"]["text"], bool(cue))
    if tonight["strip"]["weather"]:
        weather = tonight["strip"]["weather"]["verdict"]["sentence"]
        same("dew in the weather", f"dew from {cue}." in weather if cue else "no dew." in weather, True)
    ends = next((limit["frames"] for limit in exposure["many"]["limits"] if limit["name"] == "battery"), None)
    empty = [lane for lane in bench["power"]["lanes"] if lane["runs_out"]]
    if ends is not None and ends < card["frames"]:  # beyond the plan's end the Bench does not look
        first = min(empty, key=lambda lane: lane["lasts_min"], default=None)
        if first is None:
            apart.append(f"run-out: {ends} frames, and the Bench knows of none")
        else:
            begun = datetime.fromisoformat(bench["power"]["begin"]).astimezone(UTC)
            opens = next(one["moment"] for one in tonight["cues"] if one["key"] == "opens")
            left_s = first["lasts_min"] * 60 - (datetime.fromisoformat(opens) - begun).total_seconds()
            wanted = max(left_s, 0.0) / exposure["card"]["interval_start_s"]
            if abs(ends - wanted) > 120 / exposure["card"]["interval_start_s"] + 1:
                apart.append(f"run-out: {ends} frames at Exposure, {wanted:.1f} at the Bench")
    return apart


@pytest.fixture
def cases(ours, pytestconfig) -> list[tuple[dict, dict]]:
    rigs, targets = [one["id"] for one in listed(ours, "rigs")], [one["id"] for one in listed(ours, "targets")]
    spots = [spot["id"] for place in listed(ours, "places") for spot in place["spots"]]
    south = {place["latitude_deg"] < 0 for place in listed(ours, "places")}
    assert south == {True, False} and len(rigs) > 1
    dice = random.Random(13)  # noqa: S311
    found = []
    for number in range(NIGHTLY if pytestconfig.getoption("everything") else EVERYDAY):
        asked = {"rig": dice.choice(rigs), "spot": dice.choice(spots), "night": dice.choice(NIGHTS), "target": dice.choice(targets)}
        found.append((asked, {**CHOICES[number % len(CHOICES)], **WEATHER[dice.randrange(len(WEATHER))]}))
    return found


def test_nights_of_many_kinds_are_told_alike_on_every_page(ours, cases, service):  # noqa: F811
    service(Handler)
    for asked, _ in cases:
        ours.get("/api/tonight", asked)
    do_errands()
    wrong, seen = [], {"south": 0, "dew": 0, "measured": 0, "unmeasured": 0, "window": 0, "other sub": 0, "battery": 0}
    for number, (asked, choices) in enumerate(cases):
        if number % 3 == 1:
            stars = [
                {"altitude_deg": 60, "azimuth_deg": 0, "amount": number % 7, "towards": "north", "minutes": 4},
                {"altitude_deg": 25, "azimuth_deg": 90, "amount": number % 5, "towards": "south", "minutes": 4},
            ]
            assert send(ours, "pole/drift", {"context": asked, "stars": stars, "keep": True}).status_code == 200
        elif number % 6 == 2:
            assert send(ours, "alignments", {"context": asked, "method": "sight"}).status_code == 201
        pages = told(ours, asked, choices)
        wrong += [f"{number} {asked} {choices}: {one}" for one in check(pages)]
        seen["measured"] += pages["exposure"]["axis"].startswith("the axis as measured")
        seen["unmeasured"] += "nobody measured" in pages["exposure"]["axis"]
        seen["dew"] += any(one["key"] == "dew" for one in pages["tonight"]["cues"])
        seen["window"] += bool(pages["tonight"]["start_clock"])
        seen["other sub"] += " it is " in pages["need"]["need"]["verdict"]["advice"]
        seen["south"] += pages["need"]["south"]
        seen["battery"] += any(limit["name"] == "battery" for limit in pages["exposure"]["many"]["limits"])
    assert not wrong, "\n".join(wrong[:20])
    assert all(count >= len(cases) / 15 for count in seen.values()), seen


def clock_of(moment: str, zone: str) -> str:
    """To the nearest minute, as all pages tell what is planned."""
    return (datetime.fromisoformat(moment) + timedelta(seconds=30)).astimezone(ZoneInfo(zone)).strftime("%H:%M")


def test_field_calendar_and_bench_tell_the_kept_night_as_tonight_does(ours):
    """The demo's plan: its card, its clocks, and the swap of a battery by its cells."""
    start = ours.get("/api/tonight/start").json()
    asked, choices = {name: start[name] for name in ("rig", "spot", "night", "target")}, start["choices"]
    pages = told(ours, asked, choices)
    tonight, card = pages["tonight"], pages["tonight"]["card"]
    night = ours.get("/api/nights/field", {"spot": asked["spot"], "night": asked["night"]}).json()["night"]
    pack = ours.get(f"/api/nights/{night}/pack").json()
    (run,) = pack["runs"]
    fields = ("frames", "exposure_s", "delay_s", "mirror_s", "interval_gap_s", "interval_start_s")
    assert {name: run[name] for name in fields} == {name: card[name] for name in fields}
    assert (run["iso"], run["f_number"]) == (tonight["iso"], tonight["f_number"])
    zone = pack["time_zone"]
    assert (clock_of(run["begins_at"], zone), clock_of(run["ends_at"], zone)) == (tonight["start_clock"], tonight["end_clock"])
    # What Tonight marks, the field calls out at the same minute and the calendar rings for.
    marked = {cue["name"]: cue["clock"] for cue in tonight["cues"]}
    called = {cue["name"]: clock_of(cue["moment"], zone) for cue in pack["cues"]}
    assert {name: called[name] for name in ("Moonset", "Sunset", "Dark", "Dawn begins")} == {
        name: marked[name] for name in ("Moonset", "Sunset", "Dark", "Dawn begins")
    }
    (swap,) = [name for name in marked if name.startswith("Swap ")]
    assert called[swap] == marked[swap] and swap in pages["cues"]["text"].replace("\r\n ", "")
    power = said(pages["bench"]["verdicts"], "Power")
    assert power["sentence"].startswith(f"{swap} by {marked[swap]}")
    assert [one["sentence"] for one in tonight["also"] if one["topic"] == "Power"] == [power["sentence"]]


@pytest.mark.parametrize(
    "choices", [{}, {"most_hours": 2.5}, {"sub_school": "fixed", "fixed_sub_s": 60}, {"iso": 1600, "gap_s": 5}]
)
def test_a_whole_night_of_one_picture_takes_the_card_that_tonight_gives(ours, choices):
    """One rig, one picture, nothing fixed: the schedule respects each choice, and no run is longer than Tonight's."""
    start = ours.get("/api/tonight/start").json()
    asked = {name: start[name] for name in ("rig", "spot", "night", "target")}
    tonight = ours.get("/api/tonight", {**asked, **choices}).json()
    wish = {"target": asked["target"]}
    body = {"spot": asked["spot"], "night": asked["night"], "rigs": [asked["rig"]], "wishes": [wish], "choices": choices}
    answer = send(ours, "nights/whole", body)
    assert answer.status_code == 200, answer.content[:300]
    runs = [one["run"] for one in answer.json()["whole"]["runs"]]
    assert runs and {(one["exposure_s"], one["iso"], one["f_number"]) for one in runs} == {
        (tonight["card"]["exposure_s"], tonight["iso"], tonight["f_number"])
    }
    assert sum(one["frames"] for one in runs) <= tonight["card"]["frames_in_window"]
    if "most_hours" in choices:
        assert sum(one["frames"] * one["exposure_s"] for one in runs) <= choices["most_hours"] * 3600.0
