"""A signed-in person with the demo's records, and a second person with none."""

import pytest
from django.core.management import call_command
from django.test import Client

PASSWORD = "lantern-under-the-table"


@pytest.fixture
def demo(db, settings):
    settings.WIDE_DUSK_NOW = "2026-11-23T20:00:00+00:00"
    settings.WIDE_DUSK_DEMO = True
    settings.WIDE_DUSK_DEMO_PASSWORD = PASSWORD
    call_command("load_demo", verbosity=0)


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
