"""The pole through the API: what it answers, what it refuses, whose it is; and the long work with its worker taken away."""

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.utils import timezone
from PIL import Image

from tests.invented import EVENING
from tests.web.conftest import begin, bring, faults, listed, send, shot
from widedusk.jobs.measuring import Cancelled, _teller
from widedusk.jobs.queue import find_what_was_left_lying, measure_pictures
from widedusk.records import work
from widedusk.records.pictures.models import Measurement, Picture
from widedusk.records.pictures.pictures import let_old_files_go
from widedusk.records.pole.models import Alignment
from widedusk.records.work import Superseded, beat, claim, finish, left_lying


def test_two_pictures_become_an_axis_a_record_and_a_nearer_plan(ours, asked, here, jpegs):
    brought = [bring(ours, path) for path in jpegs]
    assert [one["utc_offset_min"] for one in brought] == [120, 120] and brought[0]["focal_mm"] == 180
    # The card's clock was on UTC, whatever it says of its zone: the person knows.
    answer = begin(ours, asked, [shot(one) for one in brought], clock_offset_min=0)
    assert answer.status_code == 201, answer.content
    made = answer.json()
    assert made["state"] == "waiting" and made["axis"] is None
    assert ours.get("/api/pole/need", asked).json()["measured"] is None
    measure_pictures(measurement=made["id"])
    done = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert done["state"] == "done" and done["share"] == 1, done
    error = done["axis"]["error"]
    assert error["altitude_arcmin"] == pytest.approx(-30.0, abs=0.4) and error["azimuth_arcmin"] == pytest.approx(22.0, abs=0.4)
    assert {move["screw"] for move in done["axis"]["moves"]} == {"altitude", "azimuth"}
    assert "up" in next(move["way"] for move in done["axis"]["moves"] if move["screw"] == "altitude")
    # Nobody expected 37′, and two pictures cannot show a slip.
    assert "Take a third picture before you turn a screw: you expected" in done["axis"]["verdict"]["advice"]
    # It stands in the record, and the pole reckons with its direction from now on.
    assert [one["method"] for one in listed(ours, "alignments")] == ["Two photographs"]
    need = ours.get("/api/pole/need", asked).json()
    assert need["measured"]["altitude_arcmin"] == pytest.approx(error["altitude_arcmin"])
    assert need["at_target"]["sentence"].startswith("Measured 37′ off")
    # Files are let go, stars and the small view stay.
    assert not list((here / "kept").glob("*"))
    picture = ours.get("/api/pictures").json()["items"][0]
    assert picture["measured"] and not picture["here"]
    view = ours.get(f"/api/pictures/{picture['id']}/preview.jpg")
    assert view["Content-Type"] == "image/jpeg" and view.content.startswith(b"\xff\xd8")
    assert len(Picture.objects.get(pk=picture["id"]).solution["centroids"]) > 50
    again = begin(ours, asked, [shot(one) for one in brought])
    assert "was let go after measuring" in faults(again)["pictures.0.picture"]


def test_one_picture_says_where_it_looks(ours, asked, here, jpegs):
    one = bring(ours, jpegs[0])
    made = begin(ours, asked, [shot(one, taken=None)], "pointing").json()
    measure_pictures(measurement=made["id"])
    done = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert done["pointing"]["sentence"].startswith("You are ") and done["pictures"][0]["pointing"]["stars"] > 50
    assert Alignment.objects.count() == 0


def test_what_cannot_be_measured_is_refused_at_once_with_its_field(ours, asked, here, jpegs):
    one, two = (bring(ours, path) for path in jpegs)
    same = bring(ours, jpegs[0], "copy.jpg")
    told = faults(begin(ours, asked, [shot(one), shot(same)]))
    assert "is the same file as" in told["pictures.1.picture"]
    told = faults(begin(ours, asked, [shot(one, taken=None), shot(two, focal_mm=3)]))
    assert "does not say when" in told["pictures.0.taken"] and "pictures.1.focal_mm" in told
    future = (EVENING + timedelta(days=2)).isoformat()[:19]
    assert "is yet to be taken" in faults(begin(ours, asked, [shot(one), shot(two, taken=future)]))["pictures.1.taken"]
    assert "Give 2 to 40 pictures" in faults(begin(ours, asked, [shot(one)]))["pictures"]
    assert "temperature_c" in faults(begin(ours, asked, [shot(one), shot(two)], temperature_c=400))


def test_work_that_fails_says_what_to_do_and_can_be_begun_again(ours, asked, here, jpegs):
    pictures = [shot(bring(ours, path)) for path in jpegs]
    # Read as local time of the zone in the file, the evening becomes an afternoon with the Sun up.
    made = begin(ours, asked, pictures, clock_offset_min=240).json()
    measure_pictures(measurement=made["id"])
    failed = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert failed["state"] == "failed" and "with the Sun" in failed["faults"][0]["message"]
    assert list((here / "kept").iterdir())  # nothing is lost
    again = ours.post(f"/api/pictures/measurements/{made['id']}/again").json()
    assert again["state"] == "waiting" and again["faults"] == []


def test_a_picture_that_shows_nothing_is_named_in_the_failure(ours, asked, here, jpegs):
    Image.new("L", (1200, 800), 4).save(here / "capped.jpg")
    pictures = [shot(bring(ours, jpegs[0])), shot(bring(ours, here / "capped.jpg"), taken="2026-12-08T20:04:00", focal_mm=180)]
    made = begin(ours, asked, pictures).json()
    measure_pictures(measurement=made["id"])
    told = ours.get(f"/api/pictures/measurements/{made['id']}").json()["faults"]
    assert told[0]["field"] == "pictures.1" and told[0]["message"].startswith("“capped.jpg”: It is black")


def test_cancelling_and_a_worker_that_fell_silent(ours, asked, here, jpegs):
    pictures = [shot(bring(ours, path)) for path in jpegs]
    made = begin(ours, asked, pictures).json()
    row = Measurement.objects.get(pk=made["id"])
    row.state, row.beat_at = "running", timezone.now()
    row.save()
    assert ours.post(f"/api/pictures/measurements/{row.pk}/cancel").json()["state"] == "running"  # at the worker's next step
    row.claim = uuid.uuid4()
    row.save(update_fields=("claim",))
    with pytest.raises(Cancelled):
        _teller(row, 0, 2)(0.5, "finding stars")
    Measurement.objects.filter(pk=row.pk).update(beat_at=timezone.now() - timedelta(minutes=2))
    measure_pictures(measurement=row.pk)
    assert ours.get(f"/api/pictures/measurements/{row.pk}").json()["state"] == "cancelled"
    # A worker that died leaves it running with no sign of life; it is offered again and begins from the start.
    Measurement.objects.filter(pk=row.pk).update(
        state="running", cancel_wanted=False, beat_at=timezone.now() - timedelta(minutes=2)
    )
    assert ours.get(f"/api/pictures/measurements/{row.pk}").json()["silent"] is True
    assert ours.post(f"/api/pictures/measurements/{row.pk}/again").json()["state"] == "waiting"
    measure_pictures(measurement=row.pk)
    assert ours.get(f"/api/pictures/measurements/{row.pk}").json()["state"] == "done"
    measure_pictures(measurement=row.pk)  # a second delivery of the same job changes nothing
    assert Alignment.objects.count() == 1


def test_work_left_lying_is_put_in_line_once_and_only_the_run_that_claims_it_is_heard(ours, asked, here, jpegs):
    made = begin(ours, asked, [shot(bring(ours, jpegs[0]), taken=None)], "pointing").json()
    row = Measurement.objects.get(pk=made["id"])
    long_ago = timezone.now() - timedelta(minutes=2)
    assert not left_lying(Measurement)  # its job is in line
    first = claim(Measurement, row.pk)
    assert first is not None and claim(Measurement, row.pk) is None  # a second worker leaves it to the first
    with connection.cursor() as cursor:
        cursor.execute("UPDATE procrastinate_jobs SET status = 'doing'")
    assert not left_lying(Measurement)
    Measurement.objects.filter(pk=row.pk).update(beat_at=long_ago)
    find_what_was_left_lying(timestamp=0)
    job = Measurement.objects.get(pk=row.pk).job
    find_what_was_left_lying(timestamp=0)  # while the worker is busy with another one
    assert Measurement.objects.get(pk=row.pk).job == job != row.job
    second = claim(Measurement, row.pk)
    assert second is not None
    with pytest.raises(Superseded):
        beat(first)
    with pytest.raises(Superseded):
        finish(first, "failed")
    finish(second, "done", result={"pictures": []})
    # One whose job was never put in line, because the server died between the two.
    Measurement.objects.filter(pk=row.pk).update(state="waiting", job=None, created_at=long_ago)
    assert [one.pk for one in left_lying(Measurement)] == [row.pk]


def test_the_folder_shows_its_pictures_and_nothing_else_of_the_machine(ours, asked, here, jpegs):
    (here / "secret.txt").write_text("not yours")
    (here / "card" / "notes.txt").write_text("exposures")
    (here / "card" / "one.jpg").write_bytes(jpegs[0].read_bytes())
    assert [one["name"] for one in ours.get("/api/pictures/folder").json()["items"]] == ["one.jpg"]
    for name in ("../secret.txt", str(here / "secret.txt"), "none.jpg"):
        assert "There is no picture" in faults(send(ours, "pictures/folder", {"names": [name]}))["names"]
    taken = send(ours, "pictures/folder", {"names": ["one.jpg"]})
    assert taken.status_code == 201
    ours.post(f"/api/pictures/{taken.json()[0]['id']}/let-go")
    assert (here / "card" / "one.jpg").exists()  # a person's own files are never deleted


def test_uploads_are_bounded_and_spoilt_ones_leave_nothing(ours, asked, here):
    text = SimpleUploadedFile("night.jpg", b"clear until two, then high cloud. " * 9)
    answer = ours.post("/api/pictures", {"file": text})
    assert "“night.jpg” holds text" in faults(answer)["file"]
    assert not list((here / "kept").glob("*"))


def test_files_nobody_measures_are_let_go_after_a_day(ours, asked, here, jpegs):
    old, new = (bring(ours, path) for path in jpegs)
    Picture.objects.filter(pk=old["id"]).update(created_at=timezone.now() - timedelta(days=2))
    made = begin(ours, asked, [shot(new, taken=None)], "pointing", keep_files=True).json()
    measure_pictures(measurement=made["id"])
    Picture.objects.filter(pk=new["id"]).update(created_at=timezone.now() - timedelta(days=9))
    assert let_old_files_go() == 1  # what a person wants to keep stays
    assert {one["id"]: one["here"] for one in ours.get("/api/pictures").json()["items"]} == {old["id"]: False, new["id"]: True}


def test_pictures_work_and_record_belong_to_their_person(ours, client_of, asked, here, jpegs):
    pictures = [shot(bring(ours, path)) for path in jpegs]
    made = begin(ours, asked, pictures, clock_offset_min=0).json()
    measure_pictures(measurement=made["id"])
    other = client_of("someone else")
    assert other.get("/api/pictures").json()["items"] == [] and other.get("/api/alignments").json()["items"] == []
    record = listed(ours, "alignments")[0]["id"]
    for path in (f"pictures/measurements/{made['id']}", f"pictures/{pictures[0]['picture']}/preview.jpg"):
        assert other.get(f"/api/{path}").status_code == 404
    for path in (f"pictures/measurements/{made['id']}/cancel", f"pictures/{pictures[0]['picture']}/let-go"):
        assert other.post(f"/api/{path}").status_code == 404
    assert send(other, f"alignments/{record}", {"touched": "x"}, "put").status_code == 404
    assert "You have no rig" in faults(begin(other, asked, pictures))["rig"]


def test_rough_steps_scope_and_drift_answer_and_name_their_faults(ours, asked):
    rough = ours.get(
        "/api/pole/rough", {**asked, "tick_deg": 3, "first_deg": 194, "second_deg": 207, "landmark": "24.7 S 17.0 E"}
    ).json()
    assert rough["scale"].endswith("past 15") and rough["check"]["level"] == "stop"
    assert rough["landmark_deg"] == pytest.approx(145.8, abs=1.5)
    assert "landmark" in faults(ours.get("/api/pole/rough", {**asked, "landmark": "by the tree"}))
    assert "second_deg" in faults(ours.get("/api/pole/rough", {**asked, "first_deg": 194}))
    face = ours.get("/api/pole/scope", {"rig": asked["rig"], "spot": asked["spot"], "at": "2026-12-08T19:00:00Z"}).json()
    assert face["scope"]["star"] == "σ Oct" and len(face["scope"]["rows"]) == 37 and face["reticle"] == "southern pattern"
    star = {"amount": 3, "unit": "px", "towards": "north", "minutes": 6}
    stars = [{**star, "altitude_deg": 65, "azimuth_deg": 0}, {**star, "altitude_deg": 25, "azimuth_deg": 90}]
    drifted = send(ours, "pole/drift", {"context": asked, "stars": stars, "keep": True, "touched": "leg kicked"}).json()
    assert drifted["kept"] and drifted["axis"]["total_arcmin"] > 0
    alone = send(ours, "pole/drift", {"context": asked, "stars": stars[:1]})
    assert "Watch two stars" in faults(alone)["stars"]
    assert listed(ours, "alignments")[0]["touched"] == "leg kicked"


def test_a_turn_of_a_screw_is_learnt_and_kept_with_the_tracker(ours, asked):
    def measured(high: float) -> int:
        star = {"unit": "arcsec", "minutes": 60}
        stars = [
            {**star, "altitude_deg": 65.4, "azimuth_deg": 0, "amount": 0, "towards": "north"},
            {**star, "altitude_deg": 25, "azimuth_deg": 90, "amount": abs(high), "towards": "north" if high > 0 else "south"},
        ]
        send(ours, "pole/drift", {"context": asked, "stars": stars, "keep": True})
        return listed(ours, "alignments")[0]["id"]

    before, after = measured(500), measured(-500)
    body = {"rig": asked["rig"], "screw": "altitude", "turns": 0.5, "before": before, "after": after}
    learnt = send(ours, "alignments/turn", body).json()
    assert learnt["degrees_a_turn"] > 0.3
    tracker = next(one for one in listed(ours, "parts") if one["name"] == learnt["tracker"])
    assert tracker["values"]["altitude_turn_deg"] == pytest.approx(learnt["degrees_a_turn"], abs=0.001)
    assert "turns" in faults(send(ours, "alignments/turn", {**body, "screw": "azimuth"}))
    by_hand = send(ours, "alignments", {"context": asked, "method": "scope"})
    assert by_hand.status_code == 201 and by_hand.json()["error"] is None
    assert by_hand.json()["words"] == "usually within 6.0′"
    assert "Nobody measured" in faults(send(ours, "alignments/turn", {**body, "after": by_hand.json()["id"]}))["after"]
    assert ours.delete(f"/api/alignments/{after}").status_code == 200
    assert ours.post(f"/api/alignments/{after}/restore").status_code == 200
    keeping = ours.get("/api/pole/keeping", asked).json()
    assert "Look again after every 30 frames" in keeping["verdict"]["advice"] and "not measured" in keeping["verdict"]["sentence"]


def test_the_time_left_never_counts_upwards_while_one_part_goes_on(ours, asked, monkeypatch):
    """Reckoned when a part is done, by the time since the run took it up and not since it was put in line; then it runs down."""
    clock = [datetime(2026, 12, 8, 20, tzinfo=UTC)]
    monkeypatch.setattr(work, "true_now", lambda: clock[0])
    owner = ours.session["_auth_user_id"]
    place = {name: asked[name] for name in ("rig", "spot", "target")}
    row = Measurement.objects.create(owner_id=owner, task="lens", night=asked["night"], **{f"{n}_id": v for n, v in place.items()})
    clock[0] += timedelta(minutes=10)  # in line
    row = work.claim(Measurement, row.pk)

    def left() -> float | None:
        return Measurement.objects.get(pk=row.pk).left_s

    assert left() is None
    clock[0] += timedelta(seconds=20)
    work.beat(row, share=0.25)
    assert left() == pytest.approx(60.0)
    told = []
    for _ in range(70):
        clock[0] += timedelta(seconds=1)
        work.beat(row)  # signs of life of one long part
        told.append(left())
    assert told[:3] == [59.0, 58.0, 57.0] and told[-1] is None
    work.beat(row, share=0.5)
    assert left() == pytest.approx(90.0)
    _teller(row, 2, 2)(0.0, "finding the axis")  # after both pictures
    assert Measurement.objects.get(pk=row.pk).doing == "finding the axis"
