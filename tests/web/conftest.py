"""A signed-in person with the demo's records, a second person with none, and what both do with pictures."""

from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import connections
from django.test import Client

from tests.demo import NOW, PASSWORD, SEED
from tests.invented import DEMO_SENSOR, a_pair, write_picture

LATE = "2026-12-08T22:30:00+00:00"  # when the pictures of tests/invented.py have been taken


DEMO = {"WIDE_DUSK_NOW": NOW, "WIDE_DUSK_DEMO": True, "WIDE_DUSK_DEMO_PASSWORD": PASSWORD}


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix, demo_copy):
    """The tests' database begins as a copy of the demo's; what a test does to it is rolled back with the test."""
    connections["default"].settings_dict["TEST"]["TEMPLATE"] = SEED


@pytest.fixture
def demo(db, settings):
    for name, value in DEMO.items():
        setattr(settings, name, value)
    call_command("load_demo", verbosity=0)  # finds it there, but after a test that emptied the tables


@pytest.fixture
def empty_tables(transactional_db):
    """For what changes tables: no record in any of them."""
    call_command("flush", interactive=False, verbosity=0)


@pytest.fixture
def client_of(demo, django_user_model):
    def sign_in(username: str) -> Client:
        person, _ = django_user_model.objects.get_or_create(username=username)
        client = Client()
        client.force_login(person)
        return client

    return sign_in


@pytest.fixture
def ours(client_of):
    return client_of("demo")


def listed(client: Client, noun: str) -> list[dict]:
    answer = client.get(f"/api/{noun}")
    assert answer.status_code == 200, answer.content
    return answer.json()["items"]


def context_of(client: Client) -> dict:
    """Ids of the demo's first rig, spot and target, with its darkest night."""
    place = next(place for place in listed(client, "places") if place["latitude_deg"] < 0)
    return {
        "rig": listed(client, "rigs")[0]["id"],
        "spot": place["spots"][0]["id"],
        "target": listed(client, "targets")[0]["id"],
        "night": "2026-12-08",
    }


def faults(answer) -> dict[str, str]:
    assert answer.status_code == 422, answer.content
    return {fault["field"]: fault["message"] for fault in answer.json()["faults"]}


@pytest.fixture
def here(settings, tmp_path):
    settings.WIDE_DUSK_PICTURES = str(tmp_path / "kept")
    settings.WIDE_DUSK_PICTURE_FOLDER = str(tmp_path / "card")
    (tmp_path / "card").mkdir()
    return tmp_path


@pytest.fixture(scope="session")
def jpegs(tmp_path_factory) -> list[Path]:
    """A pair at the demo's place, as its rig with the long lens would see it: 180 mm on 23.5 mm."""
    folder = tmp_path_factory.mktemp("pair")
    pair = a_pair(focal_mm=180.0, sensor=DEMO_SENSOR)
    return [write_picture(folder / f"pair-{place}.jpg", pair, shot, "+02:00") for place, shot in enumerate(pair.shots)]


@pytest.fixture
def asked(ours, settings):
    settings.WIDE_DUSK_NOW = LATE
    rig = next(one["id"] for one in listed(ours, "rigs") if one["name"].startswith("Heron"))
    return {**context_of(ours), "rig": rig}


def send(client, path: str, body: dict, how: str = "post"):
    return getattr(client, how)(f"/api/{path}", body, content_type="application/json")


def bring(client, path: Path, name: str = "") -> dict:
    answer = client.post("/api/pictures", {"file": SimpleUploadedFile(name or path.name, path.read_bytes())})
    assert answer.status_code == 201, answer.content
    return answer.json()


def shot(picture: dict, **changes) -> dict:
    return {"picture": picture["id"], "taken": picture["taken"], "exposure_s": 10, "focal_mm": picture["focal_mm"], **changes}


def begin(client, asked: dict, pictures: list[dict], task: str = "axis", **more):
    return send(client, "pictures/measurements", {"context": asked, "task": task, "pictures": pictures, **more})
