"""The demo's past trip: entered through the API as a person would, and what its pictures tell when they are measured."""

from datetime import date, timedelta

import numpy as np
import pytest
from django.contrib.auth import get_user_model

import demo.pictures
from demo.lived import has_lived, live
from demo.pictures import AXES, FRAMES, LastNight, take_pictures
from demo.scenario import LIVED_TRIP_NAME, TARGETS
from tests.web.conftest import listed
from tests.web.test_frames import aged, measure_all
from widedusk.jobs.measuring import run
from widedusk.records.clock import now
from widedusk.records.frames.models import Folder
from widedusk.records.pictures.models import Measurement


@pytest.fixture
def lived(ours, here, monkeypatch):
    """Two frames in place of 24, and only the last of three pairs; the rest as it is."""
    monkeypatch.setattr(demo.pictures, "FRAME_COUNT", 2)
    monkeypatch.setattr(demo.pictures, "AXES", AXES[2:])
    folder = here / "card"
    take_pictures(folder, now())
    for path in (folder / FRAMES).iterdir():
        aged(path)
    owner = get_user_model().objects.get(username="demo")
    assert not has_lived(owner)
    live(owner, folder)
    assert has_lived(owner)
    return folder


def test_the_demo_has_a_past_trip_whose_pages_show_results(ours, lived):
    trip = next(one for one in listed(ours, "trips") if one["name"] == LIVED_TRIP_NAME)
    assert len(trip["spots"]) == 3
    evenings = [(date.fromisoformat(trip["first_night"]) + timedelta(days=n)).isoformat() for n in range(3)]
    folder = Folder.objects.get()
    measure_all(folder.pk)
    found = ours.get("/api/frames/last").json()
    night = LastNight.read(lived)
    assert found["name"] == TARGETS[night.target].name and found["frames"] == 2
    assert found["night"] == evenings[2]
    (shot,) = [one for one in listed(ours, f"frames/runs?night={found['night']}&spot={found['spot']}") if one["frames"] == 2]
    assert shot["recognition"] in {"planned", "target"}, "the frames show what they are said to show"
    # What the phone brought home of the nights before, and what was kept of them.
    for evening, missed, culled in zip(evenings, (2, 9), (4, 7), strict=False):
        (run_there,) = listed(ours, f"runs?night={evening}")
        frames, kept = run_there["planned_frames"] - missed, run_there["planned_frames"] - missed - culled
        field = ours.get(f"/api/nights/field?spot={found['spot']}&night={evening}").json()
        assert field["runs"][0]["frames"] == frames and field["checked"] == 12 and not field["contradictions"]
        assert (run_there["state"], run_there["frames"], run_there["kept"]) == ("done", frames, kept)
        said = {(one["figure"], one["source"]) for one in run_there["statements"]}
        assert {("frames", "plan"), ("begins_at", "phone"), ("frames", "phone"), ("kept", "user")} <= said
        assert kept in {one["frames"] for one in listed(ours, "sessions")}
    # The measurements come out as what the camera saw.
    for row in Measurement.objects.all():
        run(row.pk)
    states = {row.task: row.state for row in Measurement.objects.all()}
    assert states == {"axis": "done", "lens": "done", "camera": "done"}
    axis = next(one for one in listed(ours, "alignments") if one["error"])["error"]
    _, high, east = AXES[2]
    off = np.hypot(axis["altitude_arcmin"] - high, axis["azimuth_arcmin"] - east)
    assert off < 0.3, "as exactly as two photographs tell it, so they are held to be of the place where they were taken"
