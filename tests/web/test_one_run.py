"""Plan, phone, files and user move the same row: what is saved again keeps its identity, and nothing that was begun is lost."""

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from django.utils import timezone

from tests.web.conftest import faults, listed, send
from tests.web.test_field import event, sent
from tests.web.test_frames import BEGAN, GOOD, bring, card  # noqa: F401 - a fixture
from widedusk.core.framing.frame import sides_deg
from widedusk.jobs.frames import judge_ahead
from widedusk.records.frames.frames import rig_width_deg, settle, stored_facts
from widedusk.records.frames.models import Folder, Frame
from widedusk.records.kit.services import rig_of
from widedusk.records.nights.models import Night, Run
from widedusk.records.targets.framings import framing_of
from widedusk.records.targets.models import Framing, Target

WHOLE = "/api/nights/whole"
NAMES = {"rig": "stand", "wish": "wish", "panel": "panel", "begins_at": "held_from", "ends_at": "held_to", "frames": "frames"}


@pytest.fixture
def asked_night(ours, settings):
    """Two rigs on two targets, at the demo's night."""
    settings.WIDE_DUSK_SEARCH_S = 1.0
    start = ours.get("/api/tonight/start").json()
    rigs, targets = listed(ours, "rigs"), listed(ours, "targets")
    wishes = [{"target": target["id"]} for target in targets if target["name"].startswith(("Vela", "Chamaeleon"))]
    return {"spot": start["spot"], "night": start["night"], "rigs": [rig["id"] for rig in rigs[:2]], "wishes": wishes}


@pytest.fixture
def planned(ours, asked_night):
    """Its runs, as they are sent to be saved."""
    whole = send(ours, "nights/whole", asked_night).json()["whole"]
    return [{name: run["run"][of] for name, of in NAMES.items()} for run in whole["runs"]]


def save(client, asked: dict, runs: list[dict]) -> None:
    answer = client.put(WHOLE, {**asked, "runs": runs}, content_type="application/json")
    assert answer.status_code == 200, answer.content


def scheduled(client, asked: dict) -> list[dict]:
    runs = listed(client, f"runs?night={asked['night']}&spot={asked['spot']}")
    return [run for run in runs if run["origin"] == "schedule"]


def night_number(asked: dict) -> int:
    return Night.objects.get(spot=asked["spot"], date=asked["night"]).pk


def one_run(client, run: dict) -> dict:
    return client.get(f"/api/runs/{run['id']}").json()


def test_saving_a_plan_twice_changes_nothing(ours, asked_night, planned):
    save(ours, asked_night, planned)
    before = scheduled(ours, asked_night)
    stamps = dict(Run.objects.values_list("pk", "version"))
    save(ours, asked_night, planned)
    assert scheduled(ours, asked_night) == before and dict(Run.objects.values_list("pk", "version")) == stamps


def test_a_plan_saved_anew_keeps_drops_and_revives_its_runs_and_leaves_what_was_begun(ours, asked_night, planned):
    save(ours, asked_night, planned)
    begun, *others = scheduled(ours, asked_night)
    now = begun["planned_from"]
    sent(ours, night_number(asked_night), event(1, "begun", f"run:run-{begun['id']}:begun", at=now))
    save(ours, asked_night, [])
    states = {run["id"]: run["state"] for run in scheduled(ours, asked_night)}
    assert states == {begun["id"]: "running", **{run["id"]: "dropped" for run in others}}
    assert ours.get(WHOLE, {"spot": asked_night["spot"], "night": asked_night["night"]}).json()["runs"] == []
    save(ours, asked_night, planned)
    again = {run["id"]: run["state"] for run in scheduled(ours, asked_night)}
    assert again == {begun["id"]: "running", **{run["id"]: "planned" for run in others}}
    save(ours, asked_night, planned[1:])  # another plan, changed once more
    assert {run["id"] for run in scheduled(ours, asked_night)} == set(again)
    kept = ours.get(WHOLE, {"spot": asked_night["spot"], "night": asked_night["night"]}).json()["runs"]
    assert len(kept) == len(planned) - 1
    # Withdrawn as a whole, what was begun stays.
    assert ours.delete(f"{WHOLE}?spot={asked_night['spot']}&night={asked_night['night']}").status_code == 200
    assert one_run(ours, begun)["state"] == "running"


def test_what_phones_say_moves_the_run_and_what_they_take_back_moves_it_back(ours, asked_night, planned):
    save(ours, asked_night, planned)
    run, night = scheduled(ours, asked_night)[0], night_number(asked_night)
    key, begun = f"run-{run['id']}", datetime.fromisoformat(run["planned_from"])
    sent(ours, night, event(1, "put off", f"step:run:{key}"))
    assert one_run(ours, run)["state"] == "dropped"  # somebody said that it did not run
    sent(ours, night, event(2, "begun", f"run:{key}:begun", at=begun.isoformat()))
    assert one_run(ours, run)["state"] == "running"
    ended = (begun + timedelta(hours=1)).isoformat()
    sent(ours, night, event(3, "ended", f"run:{key}:ended", at=ended, frames=118))
    told = one_run(ours, run)
    assert (told["state"], told["frames"], told["kept"], told["planned_frames"]) == ("done", 118, None, run["planned_frames"])
    said = {(one["figure"], one["source"]): one["stands"] for one in told["statements"]}
    assert said["frames", "phone"] and said["frames", "plan"] is False
    # 118 frames count for the target until files or the user say more: exposure and stop are the plan's.
    (session,) = [one for one in listed(ours, f"sessions?target={run['target']}") if one["id"] == run["id"]]
    assert session["frames"] == 118 and session["exposure_s"] == run["planned_exposure_s"]
    # Another phone ends it at another minute: the last word stands, and both are told.
    later = (begun + timedelta(hours=1, minutes=30)).isoformat()
    sent(ours, night, event(40, "ended", f"run:{key}:ended", device="phone-number-two", at=later, frames=120))
    assert one_run(ours, run)["frames"] == 120
    field = ours.get(f"/api/nights/field?spot={asked_night['spot']}&night={asked_night['night']}").json()
    assert "different ends" in field["contradictions"][0]["words"] and run["target_name"] in field["contradictions"][0]["name"]
    for number, taken_back in ((41, "phone-number-two-40"), (42, "phone-number-one-3"), (43, "phone-number-one-2")):
        sent(ours, night, event(number, "taken back", "undo", event=taken_back))
    assert one_run(ours, run)["state"] == "dropped" and one_run(ours, run)["frames"] is None
    sent(ours, night, event(44, "taken back", "undo", event="phone-number-one-1"))
    assert one_run(ours, run)["state"] == "planned"


def test_an_old_pack_still_speaks_of_the_same_run(ours, asked_night, planned):
    """Runs were named by rig, picture and order once, and plans by their number."""
    save(ours, asked_night, planned)
    run, night = scheduled(ours, asked_night)[0], night_number(asked_night)
    key, at = f"{run['rig']}-{run['target']}.0-0.1", run["planned_from"]
    sent(ours, night, event(1, "begun", f"run:{key}:begun", at=at))
    alone = Run.objects.get(origin="plan", night=night)
    sent(ours, night, event(2, "begun", f"run:plan-{alone.pk}:begun", at=at))
    assert one_run(ours, run)["state"] == "running" == Run.objects.get(pk=alone.pk).state
    events = ours.get(f"/api/nights/{night}/events").json()["items"]
    assert [one["subject"] for one in events] == [f"run:run-{run['id']}:begun", f"run:run-{alone.pk}:begun"]
    assert {one["key"] for one in ours.get(f"/api/nights/{night}/pack").json()["runs"]} >= {f"run-{run['id']}"}


def frames_of_run(folder: Folder, run: dict | None, count: int, first: datetime, **changes: object) -> None:
    """Measured frames, pointed at the target of a run. changes: of the header, or of where they look."""
    header = {"exposure_s": 60.0, "iso": 800, "f_number": 2.8, "focal_mm": 180.0, "camera": ""}
    changes = {"width_deg": rig_width_deg(folder.rig), "height_deg": 1.0, **changes}
    pointing = replace(GOOD.pointing, **{name: changes.pop(name) for name in list(changes) if hasattr(GOOD.pointing, name)})
    if run is not None:
        target = Target.objects.get(pk=run["target"])
        pointing = replace(pointing, ra_deg=target.ra_deg, dec_deg=target.dec_deg)
    for number in range(count):
        Frame.objects.create(
            owner=folder.owner, folder=folder, name=f"{first:%d%H%M}-{number:03d}.JPG", size_bytes=1, changed_ns=1, state="done",
            kind="light", digest=f"{first} {number}", began_at=first + timedelta(seconds=62 * number), measured_at=timezone.now(),
            header={**header, **changes}, facts=stored_facts(replace(GOOD, pointing=pointing)),
        )  # fmt: skip


@pytest.fixture
def folder(ours, asked, card):  # noqa: F811
    return Folder.objects.get(pk=bring(ours, asked).json()["id"])


@pytest.fixture
def begun(ours, asked_night, planned, folder):
    """A scheduled run of the folder's rig, begun by phone."""
    save(ours, asked_night, planned)
    run = next(run for run in scheduled(ours, asked_night) if run["rig"] == folder.rig_id)
    at = datetime.fromisoformat(run["planned_from"])
    sent(ours, night_number(asked_night), event(1, "begun", f"run:run-{run['id']}:begun", at=at.isoformat()))
    return run


def test_frames_find_the_planned_run_and_no_frame_counts_twice(ours, folder, begun):
    first = datetime.fromisoformat(begun["planned_from"]) + timedelta(minutes=4)
    frames_of_run(folder, begun, 12, first, exposure_s=begun["planned_exposure_s"])
    for _ in range(2):
        settle(folder)
    told = one_run(ours, begun)
    assert (told["frames"], told["recognition"], told["state"]) == (12, "planned", "running")
    assert datetime.fromisoformat(told["begins_at"]) == first  # by the files: a finger is late
    judge_ahead(Frame.objects.first())
    told = one_run(ours, begun)
    assert told["kept"] == 12 and told["state"] == "running"  # the phone has not ended it
    # The user overrules two of them, counts, and all of it is one run of one night.
    rows = ours.get(f"/api/frames/runs/{begun['id']}").json()["frames"]
    words = [{"frame": row["id"], "said": "cull"} for row in rows[:2]]
    send(ours, f"frames/runs/{begun['id']}/words", {"words": words})
    assert one_run(ours, begun)["kept"] == 10
    assert send(ours, f"frames/runs/{begun['id']}/count", {}).json()["counted"] == 10
    assert one_run(ours, begun)["state"] == "done"
    (session,) = [one for one in listed(ours, f"sessions?target={begun['target']}") if one["id"] == begun["id"]]
    assert session["frames"] == 10
    line = next(one for one in ours.get("/api/nights").json()["items"] if one["night"] == begun["night"])
    assert (line["frames"], line["kept"], line["done"]) == (12, 10, 1)


def test_a_plan_saved_while_frames_arrive_takes_them(ours, asked_night, planned, folder):
    target = Target.objects.get(pk=asked_night["wishes"][0]["target"])
    frames_of_run(folder, {"target": target.pk}, 3, BEGAN)
    settle(folder)
    (found,) = listed(ours, "frames/runs")
    assert found["recognition"] == "planned" or found["state"] == "running"
    save(ours, asked_night, planned)
    frames_of_run(folder, {"target": target.pk}, 2, BEGAN + timedelta(minutes=4))
    settle(folder)
    runs = listed(ours, "frames/runs")
    assert [run["frames"] for run in runs] == [5] and runs[0]["recognition"] == "planned"


@pytest.mark.parametrize(
    ("looks", "recognition", "words"),
    [
        ({"ra_deg": 10.0, "dec_deg": -30.0}, "other field", "None of your targets"),
        ({"width_deg": 3.0, "height_deg": 2.0}, "other lens", "another lens"),
    ],
)
def test_frames_that_are_not_recognised_count_only_by_the_users_word(ours, folder, looks, recognition, words):
    frames_of_run(folder, None, 6, BEGAN, **looks)
    settle(folder)
    judge_ahead(Frame.objects.first())
    (run,) = listed(ours, "frames/runs")
    assert (run["recognition"], run["counted"], run["state"]) == (recognition, None, "running")
    assert words in faults(send(ours, f"frames/runs/{run['id']}/count", {}))["run"]
    assert not [one for one in listed(ours, "sessions") if one["id"] == run["id"]]
    target = listed(ours, "targets")[0]
    assert "target" in faults(send(ours, f"frames/runs/{run['id']}/shows", {"target": 999_999}))
    assert send(ours, f"frames/runs/{run['id']}/shows", {"target": target["id"]}).json()["target"] == target["id"]
    settle(folder)  # the user's word stands
    counted = send(ours, f"frames/runs/{run['id']}/count", {}).json()
    assert counted.get("counted") == 6, counted
    assert [one["frames"] for one in listed(ours, f"sessions?target={target['id']}") if one["id"] == run["id"]] == [6]


def test_frames_of_a_panel_find_the_run_of_that_panel(ours, asked_night, folder):
    """Panels lie a frame apart: none but the middle one shows the middle of the mosaic."""
    target = Target.objects.get(pk=asked_night["wishes"][0]["target"])
    body = {"name": "Three of it", "target": target.pk, "ra_deg": target.ra_deg, "dec_deg": target.dec_deg, "columns": 3}
    framing = send(ours, "framings", body).json()["id"]
    asked = {**asked_night, "rigs": [folder.rig_id], "wishes": [{"target": target.pk, "framing": framing}]}
    whole = send(ours, "nights/whole", asked).json()["whole"]
    save(ours, asked, [{name: run["run"][of] for name, of in NAMES.items()} for run in whole["runs"]])
    runs = {run["panel"]: run for run in scheduled(ours, asked)}
    assert set(runs) == {"1·1", "1·2", "1·3"}
    core = framing_of(Framing.objects.get(pk=framing))
    for panel in core.panels(*sides_deg(rig_of(folder.rig))).panels:
        run = runs[f"1·{panel.column + 1}"]
        first = datetime.fromisoformat(run["planned_from"])
        frames_of_run(folder, None, 2 + panel.column, first, ra_deg=panel.frame.ra_deg, dec_deg=panel.frame.dec_deg)
        settle(folder)
        assert (one_run(ours, run)["frames"], one_run(ours, run)["recognition"]) == (2 + panel.column, "planned")


def test_a_plan_that_was_begun_becomes_no_other_run_and_is_not_deleted(ours):
    (plan,) = listed(ours, "plans")
    night = Run.objects.get(pk=plan["id"]).night_id
    sent(ours, night, event(1, "begun", f"run:run-{plan['id']}:begun", at="2026-12-08T23:10:00Z"))
    target = next(target["id"] for target in listed(ours, "targets") if target["id"] != plan["target"])
    body = {name: plan[name] for name in ("name", "rig", "spot", "night", "target", "choices") if name in plan}
    change = ours.put(f"/api/plans/{plan['id']}", {**body, "target": target}, content_type="application/json")
    assert "another plan" in faults(change)["target"]
    assert ours.put(f"/api/plans/{plan['id']}", {**body, "name": "Begun"}, content_type="application/json").status_code == 200
    assert ours.delete(f"/api/plans/{plan['id']}").status_code == 404
    assert one_run(ours, plan)["state"] == "running"


def test_a_folder_that_is_read_again_with_another_rig_leaves_no_empty_run(ours, folder, begun):
    frames_of_run(folder, begun, 6, BEGAN)
    Run.objects.filter(pk=begun["id"]).delete()
    settle(folder)
    judge_ahead(Frame.objects.first())
    (found,) = listed(ours, "frames/runs")
    assert found["counted"] == 6
    folder.rig_id = next(rig["id"] for rig in listed(ours, "rigs") if rig["id"] != folder.rig_id)
    folder.save()
    settle(folder)
    (other,) = listed(ours, "frames/runs")
    assert other["recognition"] == "other lens" and other["id"] != found["id"]
    assert ours.get(f"/api/frames/runs/{other['id']}").json()["lessons"] == []  # of another rig than this
    assert ours.get(f"/api/runs/{found['id']}").status_code == 404


def test_a_folder_of_two_nights_becomes_two_nights(ours, folder, begun):
    first = datetime.fromisoformat(begun["planned_from"])
    frames_of_run(folder, begun, 3, first)
    frames_of_run(folder, begun, 4, first - timedelta(days=1))
    for _ in range(2):
        settle(folder)
    (tonight,) = listed(ours, f"frames/runs?night={begun['night']}")
    assert (tonight["id"], tonight["frames"]) == (begun["id"], 3)
    before = (datetime.fromisoformat(begun["night"]) - timedelta(days=1)).date().isoformat()
    (earlier,) = listed(ours, f"frames/runs?night={before}")
    assert earlier["frames"] == 4 and earlier["target"] == begun["target"]
    (told,) = [one for one in listed(ours, "frames/folders") if one["id"] == folder.pk]
    assert told["troubles"] == ["Frames of several nights (7 Dec 2026: 4, 8 Dec 2026: 3). Each is in its own night."]
    assert told["other_night"] is None


def test_a_folder_moved_to_another_night_leaves_the_plan_where_it_was_made(ours, folder, begun):
    first = datetime.fromisoformat(begun["planned_from"])
    frames_of_run(folder, begun, 3, first)
    settle(folder)
    assert send(ours, f"frames/folders/{folder.pk}/night", {"night": "2026-12-05"}).status_code == 200
    told = one_run(ours, begun)
    assert (told["night"], told["state"], told["frames"]) == (begun["night"], "running", None)
    (moved,) = listed(ours, "frames/runs?night=2026-12-05")
    assert moved["frames"] == 3 and moved["id"] != begun["id"]


def test_the_user_drops_a_run_and_takes_it_back(ours, client_of, begun):
    assert client_of("neighbour").post(f"/api/runs/{begun['id']}/drop").status_code == 404
    assert ours.post(f"/api/runs/{begun['id']}/drop").json()["state"] == "dropped"
    at = datetime(2026, 12, 9, 1, 0, tzinfo=UTC).isoformat()
    night = Run.objects.get(pk=begun["id"]).night_id
    sent(ours, night, event(9, "ended", f"run:run-{begun['id']}:ended", at=at, frames=40))
    assert one_run(ours, begun)["state"] == "dropped" and one_run(ours, begun)["frames"] == 40  # told, and lost nowhere
    assert ours.post(f"/api/runs/{begun['id']}/undrop").json()["state"] == "done"
    records = json.loads(ours.get("/api/account/export").json()["text"])["records"]
    names = ("RunPlan", "RunResult", "RunFact")
    ours_of = {name: [row for row in records[f"nights.{name}"] if row["run_id"] == begun["id"]] for name in names}
    assert (
        ours_of["RunResult"][0]["frames"] == 40 == max(row["number"] or 0 for row in ours_of["RunFact"] if row["source"] == "phone")
    )
    assert ours_of["RunPlan"][0]["frames"] == begun["planned_frames"]
