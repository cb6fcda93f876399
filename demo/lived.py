"""A past trip of three nights, lived through the API as a person would: planned, shot, noted, its pictures handed over.

Everything here is entered; what pictures tell is measured by the workers afterwards, while somebody looks around.
"""

import json
from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.test import Client

from demo.pictures import FRAMES, LENS_STOPS, PLACE, TEST_ISO, UTC_OFFSET_MIN, LastNight
from demo.scenario import LIVED_TRIP_NAME

PHONE = "phone-of-the-demo"
# Of the two nights before the last: plan, frames not taken of it and culled, setting, sky; what was seen, by the hour.
EARLIER = (
    {
        "rig": "Heron",
        "target": "Vela",
        "plan": "Vela from dusk",
        "usual": 98,  # where the sky of that night left no window to plan in
        "missed": 2,
        "culled": 4,
        "exposure_s": 90.0,
        "f_number": 4.0,
        "iso": 800,
        "sky_mag": 21.7,
        "way": "scope",
        "noted": (
            (1, "seen", {"what": "seeing", "value": "steady"}),
            (3, "noted", {"words": "Jackal beside the tank, tripod untouched"}),
        ),
        "forgotten": "Spare AA cells",
    },
    {
        "rig": "Sparrow",
        "target": "Chamaeleon",
        "plan": "Chamaeleon until three",
        "usual": 80,
        "missed": 9,
        "culled": 7,
        "exposure_s": 120.0,
        "f_number": 2.8,
        "iso": 1600,
        "sky_mag": 21.6,
        "way": "scope",
        "noted": ((2, "seen", {"what": "cloud", "value": "thin"}), (4, "touched", {"words": "Kicked the leg of Sparrow"})),
        "forgotten": "",
    },
)
# Which step was ticked, and so many minutes after the one before.
TICKED = {
    "bag": 9,
    "walk": 12,
    "power": 6,
    "sky": 3,
    "azimuth:0": 4,
    "level:0": 5,
    "latitude:0": 3,
    "switch:0": 1,
    "camera:0": 4,
    "hood:0": 2,
    "scope:0": 8,
    "payload:0": 3,
}


class Refused(Exception):
    """What the API said instead of doing it."""


class Person:
    """The demo's person at the API."""

    def __init__(self, owner: AbstractBaseUser) -> None:
        self.client = Client(SERVER_NAME="127.0.0.1")
        self.client.force_login(owner)

    def asks(self, path: str) -> Any:
        return self._told(self.client.get(f"/api/{path}"))

    def sends(self, path: str, body: Mapping[str, Any]) -> Any:
        return self._told(self.client.post(f"/api/{path}", json.dumps(body), content_type="application/json"))

    def puts(self, path: str, body: Mapping[str, Any]) -> Any:
        return self._told(self.client.put(f"/api/{path}", json.dumps(body), content_type="application/json"))

    def named(self, noun: str) -> dict[str, int]:
        """Numbers by the first word of a name."""
        return {one["name"].split()[0].rstrip(","): one["id"] for one in self.asks(f"{noun}?limit=50")["items"]}

    @staticmethod
    def _told(answer: Any) -> Any:
        if answer.status_code >= 400:
            raise Refused(f"{answer.request['PATH_INFO']}: {answer.status_code} {answer.content.decode()[:400]}")
        return answer.json()


def has_lived(owner: AbstractBaseUser) -> bool:
    return any(one["name"] == LIVED_TRIP_NAME for one in Person(owner).asks("trips?limit=50")["items"])


@transaction.atomic
def live(owner: AbstractBaseUser, folder: Path) -> str:
    """Enter the trip and hand its pictures over. Returns what is being measured, in words."""
    person, night = Person(owner), LastNight.read(folder)
    rigs, targets = person.named("rigs"), person.named("targets")
    places = {one["name"]: one for one in person.asks("places?limit=50")["items"]}
    spot = places[PLACE.name]["spots"][0]["id"]
    last = (night.begin - timedelta(hours=6)).date()  # the evening before that midnight
    evenings = [last - timedelta(days=back) for back in (2, 1, 0)]
    shot = [targets["Vela"], targets["Chamaeleon"], list(targets.values())[night.target]]
    trip = {"name": LIVED_TRIP_NAME, "first_night": evenings[0].isoformat(), "spots": [spot] * 3, "drive_h": 4.5}
    person.sends("trips", {**trip, "rigs": [rigs["Heron"], rigs["Sparrow"]], "targets": list(dict.fromkeys(shot))})
    for evening, one in zip(evenings, EARLIER, strict=False):
        _earlier(person, evening, spot, rigs[str(one["rig"])], targets[str(one["target"])], one)
    context = {"rig": rigs["Heron"], "spot": spot, "night": last.isoformat(), "target": shot[2]}
    person.sends("frames/folders", {"context": context, "path": FRAMES, "clock_offset_min": UTC_OFFSET_MIN})
    _measured(person, {**context, "target": targets["Vela"]})
    return "24 frames, two photographs of the axis, the lens at three stops and the camera's noise are being measured"


def _earlier(person: Person, evening: date, spot: int, rig: int, target: int, told: Mapping[str, Any]) -> None:
    """A night of which nobody kept the files: planned, run by the phone, and what was kept noted by hand."""
    context = {"rig": rig, "spot": spot, "night": evening.isoformat(), "target": target}
    choices = {"sub_school": "fixed", "fixed_sub_s": told["exposure_s"]}
    plan = person.sends("plans", {**context, "name": told["plan"], "choices": choices})["id"]
    planned = person.asks(f"runs/{plan}")
    frames = (planned["planned_frames"] or told["usual"]) - told["missed"]
    person.sends("alignments", {"context": context, "method": told["way"]})
    number = person.asks(f"nights/field?spot={spot}&night={evening.isoformat()}")["night"]
    dusk = datetime(evening.year, evening.month, evening.day, 15, 30, tzinfo=UTC)
    events: list[dict[str, Any]] = []

    def add(at: datetime, kind: str, subject: str, data: Mapping[str, Any]) -> None:
        count = len(events) + 1
        head = {"id": f"{PHONE}-{evening}-{count}", "device": PHONE, "number": count, "at": at.isoformat(), "offset_s": 1.5}
        events.append({**head, "kind": kind, "subject": subject, "data": dict(data)})

    at = dusk
    for step, minutes in TICKED.items():
        at += timedelta(minutes=minutes)
        add(at, "checked", f"step:{step}", {})
    first = datetime.fromisoformat(planned["planned_from"]) if planned["planned_from"] else dusk + timedelta(hours=3, minutes=20)
    begun = first + timedelta(minutes=3)
    run, length = f"run-{plan}", timedelta(seconds=frames * (told["exposure_s"] + 2.0))
    add(begun, "begun", f"run:{run}:begun", {"at": begun.isoformat()})
    for hours, kind, data in told["noted"]:
        add(begun + timedelta(hours=hours), kind, f"{kind}:{hours}", data)
    add(begun + length, "ended", f"run:{run}:ended", {"at": (begun + length).isoformat(), "frames": frames})
    if told["forgotten"]:
        add(begun + length + timedelta(minutes=20), "forgotten", "forgotten:1", {"words": told["forgotten"]})
    person.sends(f"nights/{number}/events", {"sent_at": (begun + timedelta(hours=12)).isoformat(), "events": events})
    noted = {name: told[name] for name in ("exposure_s", "f_number", "iso", "sky_mag")} | {"frames": frames - told["culled"]}
    person.puts(f"sessions/{plan}", {"target": target, "night": evening.isoformat(), "rig": rig, "spot": spot, **noted})


def _measured(person: Person, context: Mapping[str, Any]) -> None:
    """The pictures of the last night, each for what it was taken for."""

    def hand_over(task: str, names: list[str], more: Mapping[str, Any], stops: list[float] | None = None) -> None:
        pictures = []
        for place, row in enumerate(person.sends("pictures/folder", {"names": names})):
            told = {"picture": row["id"], "exposure_s": row["exposure_s"], "focal_mm": row["focal_mm"]}
            if task != "lens":
                told["taken"] = row["taken"] and row["taken"][:19]
            if stops:
                told |= {"f_number": stops[place], "stopped_by": "open" if place == 0 else "iris"}
            pictures.append(told)
        person.sends("pictures/measurements", {"context": context, "task": task, "pictures": pictures, **more})

    clock = {"clock_offset_min": UTC_OFFSET_MIN, "clock_fast_s": 0.0}
    hand_over("axis", ["pair-3-first.jpg", "pair-3-second.jpg"], clock)
    hand_over("lens", [f"lens-at-f{stop:g}.fits" for stop in LENS_STOPS], {}, list(LENS_STOPS))
    names = ["iso-800-flat-1.fits", "iso-800-flat-2.fits", "iso-800-bias-1.fits", "iso-800-bias-2.fits"]
    hand_over("camera", names, {"iso": TEST_ISO})
