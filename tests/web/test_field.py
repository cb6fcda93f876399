"""The night pack and the events of the field through the API."""

import gzip
import json
from datetime import UTC, datetime, timedelta

import pytest

from tests.web.conftest import faults, listed, send
from widedusk.jobs.planning import run
from widedusk.records.nights import events as kept_events
from widedusk.records.nights.models import Event, Night, Planning

MOST_PACK = 400_000  # bytes, compressed
AT = datetime(2026, 12, 8, 18, 0, tzinfo=UTC)


@pytest.fixture
def night(ours):
    """One with a plan of its own."""
    start = ours.get("/api/tonight/start").json()
    return ours.get(f"/api/nights/field?spot={start['spot']}&night={start['night']}").json()["night"]


def event(number: int, kind: str = "checked", subject: str = "step:walk", device: str = "phone-number-one", **data: object) -> dict:
    told = {"id": f"{device}-{number}", "device": device, "number": number, "kind": kind, "subject": subject, "data": data}
    return {**told, "at": (AT + timedelta(minutes=number)).isoformat()}


def sent(client, night: int, *events: dict) -> dict:
    answer = send(client, f"nights/{night}/events", {"sent_at": AT.isoformat(), "events": list(events)})
    assert answer.status_code == 200, answer.content
    return answer.json()


def kept_whole(client, without: int = 0):
    """Two rigs on two targets, planned and kept for the demo's night."""
    start = client.get("/api/tonight/start").json()
    rigs, targets = listed(client, "rigs"), listed(client, "targets")
    wishes = [{"target": one["id"]} for one in targets if one["name"].startswith(("Vela", "Chamaeleon"))]
    asked = {"spot": start["spot"], "night": start["night"], "rigs": [one["id"] for one in rigs[:2]], "wishes": wishes}
    whole = send(client, "nights/whole", asked).json()["whole"]
    names = {"rig": "stand", "wish": "wish", "panel": "panel", "begins_at": "held_from", "ends_at": "held_to", "frames": "frames"}
    runs = [{name: one["run"][of] for name, of in names.items()} for one in whole["runs"]][without:]
    assert client.put("/api/nights/whole", {**asked, "runs": runs}, content_type="application/json").status_code == 200


def test_a_pack_holds_the_night_and_is_small(ours, night, settings):
    settings.WIDE_DUSK_SEARCH_S = 1.0
    kept_whole(ours)
    answer = ours.get(f"/api/nights/{night}/pack")
    assert answer.status_code == 200, answer.content
    assert len(gzip.compress(answer.content, 6)) < MOST_PACK / 4
    pack = answer.json()
    sheet = ours.get(f"/api/nights/whole/sheet?spot={Night.objects.get(pk=night).spot_id}&night={pack['evening']}").json()
    theirs = [(run["name"], run["frames"], run["exposure_s"], run["iso"]) for run in sheet["runs"]]
    assert [(run["name"], run["frames"], run["exposure_s"], run["iso"]) for run in pack["runs"]] == theirs
    assert ours.get(f"/api/nights/{night}/pack").json()["version"] == pack["version"]
    assert {step["run"] for step in pack["steps"] if step["kind"] == "run"} == {run["key"] for run in pack["runs"]}


def pack_ends(pack: dict) -> str:
    """An hour before the last frame, from when on nothing may be worth beginning."""
    return (max(datetime.fromisoformat(run["ends_at"]) for run in pack["runs"]) - timedelta(hours=1)).isoformat()


def test_other_nights_are_asked_for_with_the_first_pack_and_are_in_a_later_one(ours, night, settings):
    settings.WIDE_DUSK_SEARCH_S = 1.0
    assert not ours.get(f"/api/nights/{night}/pack").json()["more_to_come"], "a plan of its own has none"
    kept_whole(ours)
    first = ours.get(f"/api/nights/{night}/pack").json()
    assert first["more_to_come"] and first["other_nights"] == []
    for row in list(Planning.objects.filter(night=night)):
        run(row.pk)
    second = ours.get(f"/api/nights/{night}/pack").json()
    names = [one["name"] for one in second["other_nights"]]
    assert not second["more_to_come"] and {"1 h late", "Cloud until 00:00", "Home 1 h earlier"} <= set(names)
    assert sum(name.endswith(" fails") for name in names) == 2
    assert second["version"] != first["version"]
    assert len(second["replans"]) > 50 and all(one["runs"] or one["moment"] > pack_ends(second) for one in second["replans"])
    assert {one["so_far"] for one in second["replans"]} == {True, False}
    assert len(gzip.compress(json.dumps(second).encode(), 6)) < MOST_PACK / 4
    kept_whole(ours)  # saved once more: nothing changed, and what was worked out still holds
    assert not ours.get(f"/api/nights/{night}/pack").json()["more_to_come"]
    kept_whole(ours, without=1)  # another plan: what was worked out is of another night
    assert ours.get(f"/api/nights/{night}/pack").json()["more_to_come"]


def test_a_plan_of_its_own_is_packed_with_the_frames_that_tonight_tells(ours, night):
    pack = ours.get(f"/api/nights/{night}/pack").json()
    start = ours.get("/api/tonight/start").json()
    asked = {name: value for name, value in start.items() if name in {"rig", "spot", "night", "target"}}
    tonight = ours.get("/api/tonight", {**asked, **start.get("choices", {})}).json()
    assert [run["frames"] for run in pack["runs"]] == [tonight["card"]["frames"]]
    assert pack["runs"][0]["exposure_s"] == tonight["card"]["exposure_s"]


def test_a_night_without_a_plan_and_anothers_are_refused(ours, client_of, night):
    row = Night.objects.get(pk=night)
    empty = Night.objects.create(owner_id=row.owner_id, name="bare", spot=row.spot, date="2027-01-20")
    assert "plan a run first" in faults(ours.get(f"/api/nights/{empty.pk}/pack"))["night"]
    other = client_of("neighbour")
    assert other.get(f"/api/nights/{night}/pack").status_code == 404
    assert send(other, f"nights/{night}/events", {"sent_at": AT.isoformat(), "events": []}).status_code == 404
    assert other.get(f"/api/nights/{night}/events").status_code == 404


def test_events_come_in_any_order_twice_and_from_two_phones(ours, night):
    first, second = event(1), event(2, "put off", "step:level:0")
    elsewhere = event(1, "begun", "run:1:begun", "phone-number-two", at=AT.isoformat())
    assert sorted(sent(ours, night, second, first)["accepted"]) == ["phone-number-one-1", "phone-number-one-2"]
    assert sent(ours, night, first)["accepted"] == ["phone-number-one-1"]
    changed = {**first, "subject": "step:other"}
    sent(ours, night, changed, elsewhere)
    assert Event.objects.get(event_id="phone-number-one-1").subject == "step:walk", "nothing is ever overwritten"
    page = ours.get(f"/api/nights/{night}/events?limit=2").json()
    assert page["count"] == 3 and len(page["items"]) == 2
    state = ours.get(f"/api/nights/field?spot={Night.objects.get(pk=night).spot_id}&night=2026-12-08").json()
    assert state["events"] == 3 and state["checked"] == 1 and state["runs"][0]["run"] == "1"
    assert len(state["devices"]) == 2


def test_one_wrong_event_is_told_and_the_others_are_kept(ours, night):
    wrong = event(2, "ended", "run:1:ended", at="lunchtime", frames=3)
    told = sent(ours, night, event(1), wrong)
    assert told["accepted"] == ["phone-number-one-1"]
    assert told["refused"][0]["id"] == "phone-number-one-2"
    assert told["refused"][0]["faults"][0]["field"] == "data.at"
    many = [event(number) for number in range(501)]
    assert "events" in faults(send(ours, f"nights/{night}/events", {"sent_at": AT.isoformat(), "events": many}))


def test_an_event_that_cannot_be_read_back_is_refused_alone(ours, night):
    """Each of them once spoilt all that came with it, or everything that the night held."""
    spoilt = [
        {**event(2), "at": "x"},
        {**event(3), "at": "0001-01-01T00:00:00Z", "offset_s": 34_560_000.0},
        {**event(4), "at": "0001-01-01T00:00:00+14:00"},
        {**event(5), "at": "9999-12-31T23:59:59-14:00"},
        event(6, "begun", "run:1:begun", at="0001-01-01T00:00:00+14:00"),
        event(7, "ended", "run:1:ended", at="9999-12-31T23:59:59-14:00", frames=3),
        event(8, **{f"value {number}": number for number in range(21)}),
        event(9, **{"a\x00name": 1}),
        event(10, words="a\x00word"),
        {**event(11), "subject": None},
    ]
    told = sent(ours, night, event(1), *spoilt, {"id": "a\x00b"}, "no event", event(12))
    assert told["accepted"] == ["phone-number-one-1", "phone-number-one-12"]
    assert {one["id"] for one in told["refused"]} >= {one["id"] for one in spoilt}
    assert len(told["refused"]) == len(spoilt) + 2 and all(one["faults"] for one in told["refused"])
    why = {one["id"]: one["faults"][0] for one in told["refused"]}
    assert why["phone-number-one-3"]["field"] == "at" and "1990" in why["phone-number-one-3"]["message"]
    assert ours.get(f"/api/nights/field?spot={Night.objects.get(pk=night).spot_id}&night=2026-12-08").json()["events"] == 2


def test_an_event_of_an_older_release_that_cannot_be_read_spoils_no_other(ours, night):
    """Such were accepted once, and that night's field answered with a server error for ever."""
    sent(ours, night, event(1, subject="step:walk"))
    owner = Night.objects.get(pk=night).owner_id
    for number, at in enumerate(("0001-01-01T00:00:00+00:00", "9999-12-31T23:59:59+00:00")):
        told = {
            "event_id": f"old-{number}",
            "device": "phone-number-old",
            "number": number,
            "offset_s": 34_560_000.0 * (1 - 2 * number),
        }
        Event.objects.create(
            owner_id=owner, night_id=night, at=datetime.fromisoformat(at), kind="checked", subject="step:old", data={},
            received_at=AT, **told,
        )  # fmt: skip
    answer = ours.get(f"/api/nights/field?spot={Night.objects.get(pk=night).spot_id}&night=2026-12-08")
    assert answer.status_code == 200 and answer.json()["checked"] == 1
    assert ours.get(f"/api/nights/{night}/events").status_code == 200


def test_what_was_forgotten_is_asked_for_the_next_time_unless_it_is_taken_back(ours, night):
    sent(ours, night, event(1, "forgotten", "forgotten:1", words="Hand warmers"), event(2, "forgotten", "forgotten:2", words="Cap"))
    assert Night.objects.get(pk=night).forgotten == {"hand warmers": "Hand warmers", "cap": "Cap"}
    sent(ours, night, event(3, "taken back", "forgotten:2", event="phone-number-one-2"))
    assert Night.objects.get(pk=night).forgotten == {"hand warmers": "Hand warmers"}


def test_a_clock_that_is_off_is_told(ours, night):
    answer = send(ours, f"nights/{night}/events", {"sent_at": "2026-11-23T21:00:00Z", "events": []}).json()
    assert answer["offset_s"] == 3600.0
    sent(ours, night, {**event(1), "offset_s": -7200.0})
    state = ours.get(f"/api/nights/field?spot={Night.objects.get(pk=night).spot_id}&night=2026-12-08").json()
    assert "2.0 h behind" in state["devices"][0]["words"]
    assert json.dumps(state)


def test_where_a_phone_finds_it_is_told_only_on_the_local_network(ours, client_of, night, settings, tmp_path):
    nowhere = ours.get(f"/api/nights/{night}/reach").json()
    assert not nowhere["on_the_network"] and nowhere["address"] == ""
    assert ours.get("/field/authority.crt").status_code == 404
    certificate = tmp_path / "authority.crt"
    certificate.write_text("a certificate")
    settings.WIDE_DUSK_LAN_ADDRESS = "https://192.168.1.20:8443/"
    settings.WIDE_DUSK_LAN_FINGERPRINT = "AA:BB"
    settings.WIDE_DUSK_LAN_AUTHORITY = str(certificate)
    told = ours.get(f"/api/nights/{night}/reach").json()
    assert told["address"] == f"https://192.168.1.20:8443/field/#/{night}"
    assert told["picture"].startswith("data:image/svg+xml") and told["fingerprint"] == "AA:BB"
    answer = ours.get("/field/authority.crt")
    assert answer.status_code == 200 and answer.content == b"a certificate"
    assert answer["Content-Type"] == "application/x-x509-ca-cert"
    assert client_of("neighbour").get(f"/api/nights/{night}/reach").status_code == 404


def test_a_night_holds_so_many_events_and_no_more(ours, night, monkeypatch):
    monkeypatch.setattr(kept_events, "MOST_EVENTS", 3)
    sent(ours, night, event(1), event(2))
    more = send(ours, f"nights/{night}/events", {"sent_at": AT.isoformat(), "events": [event(3), event(4)]})
    assert "One night holds 3 events" in faults(more)["events"]
    assert sent(ours, night, event(3))["accepted"] == ["phone-number-one-3"]
