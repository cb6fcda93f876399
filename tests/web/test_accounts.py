"""Sessions, throttling, the cross-site check and the headers."""

import json

import pytest
from django.contrib.auth import get_user_model
from django.test import Client, TestCase

from tests.demo import PASSWORD
from tests.web.conftest import bring, faults
from tests.web.conftest import send as ask


def send(client, url, data, **more):
    return client.post(url, json.dumps(data), content_type="application/json", **more)


def test_signing_in_and_out(demo):
    client = Client()
    offered = client.get("/api/session").json()
    assert offered["username"] is None and offered["demo"] == {"username": "demo", "password": PASSWORD}
    assert "do not belong together" in faults(send(client, "/api/session", {"username": "demo", "password": "wrong"}))["password"]
    assert send(client, "/api/session", offered["demo"]).json()["username"] == "demo"
    assert client.get("/api/rigs").status_code == 200
    assert client.delete("/api/session").json()["username"] is None
    assert client.get("/api/rigs").status_code == 401


def test_the_demo_is_not_offered_outside_a_demo(demo, settings):
    settings.WIDE_DUSK_DEMO = False
    assert Client().get("/api/session").json()["demo"] is None


def test_too_many_wrong_tries_close_the_door_even_to_the_right_password(demo):
    client = Client()
    for _ in range(6):
        answer = send(client, "/api/session", {"username": "demo", "password": "wrong"})
    assert answer.status_code == 429
    locked = send(client, "/api/session", {"username": "demo", "password": PASSWORD})
    assert locked.status_code == 429 and "Wait 15 minutes" in locked.json()["faults"][0]["message"]


def test_making_an_account(demo):
    client = Client()
    assert set(faults(send(client, "/api/session/account", {"username": "demo", "password": "12345"}))) == {"username", "password"}
    assert set(faults(send(client, "/api/session/account", {"username": "a b?", "password": "lantern-and-tape"}))) == {"username"}
    assert send(client, "/api/session/account", {"username": "mirja", "password": "lantern-and-tape"}).json()["username"] == "mirja"
    assert get_user_model().objects.get(username="mirja").password.startswith("argon2")
    assert client.get("/api/rigs").json()["count"] == 0


@pytest.mark.parametrize(("url", "data"), [("/api/session", {"username": "demo", "password": PASSWORD}), ("/api/targets", {})])
def test_the_cross_site_check_is_on(demo, url, data):
    client = Client(enforce_csrf_checks=True)
    client.force_login(get_user_model().objects.get(username="demo"))
    assert send(client, url, data).status_code == 403
    client.get("/api/session")
    token = client.cookies["csrftoken"].value
    assert send(client, url, data, headers={"X-CSRFToken": token}).status_code in {200, 422}


def test_headers_let_in_no_script_but_our_own(demo):
    page = Client().get("/tonight")
    policy = page.headers["Content-Security-Policy"]
    assert "script-src 'self';" in policy + ";" and "default-src 'self'" in policy and "frame-ancestors 'none'" in policy
    assert "unsafe-inline" not in policy.split("script-src")[1].split(";")[0]
    assert page.headers["X-Frame-Options"] == "DENY" and page.headers["X-Content-Type-Options"] == "nosniff"
    assert "<script>" not in page.content.decode() and "onload=" not in page.content.decode()


def test_health_and_unknown_addresses(demo):
    assert Client().get("/health").json() == {"healthy": True}
    assert Client().get("/api/nowhere").status_code == 404


def test_a_password_is_changed_with_the_old_one_and_ends_every_other_session(client_of, django_user_model):
    here, elsewhere = client_of("lena"), client_of("lena")
    person = django_user_model.objects.get(username="lena")
    person.set_password("tape-and-tripod")
    person.save()
    for one in (here, elsewhere):
        one.force_login(person)
    wrong = ask(here, "account/password", {"password": "not it", "new_password": "another-lantern"}, "put")
    assert "not your password" in faults(wrong)["password"]
    weak = ask(here, "account/password", {"password": "tape-and-tripod", "new_password": "12345678"}, "put")
    assert "new_password" in faults(weak)
    assert (
        ask(here, "account/password", {"password": "tape-and-tripod", "new_password": "another-lantern"}, "put").status_code == 200
    )
    assert here.get("/api/targets").status_code == 200 and elsewhere.get("/api/targets").status_code == 401
    elsewhere.force_login(django_user_model.objects.get(username="lena"))
    assert here.post("/api/account/sign-out-elsewhere").json()["ended"] == 1
    assert here.get("/api/targets").status_code == 200 and elsewhere.get("/api/targets").status_code == 401


def test_everything_of_one_person_goes_along_and_goes_away_and_nothing_of_anybody_else(
    ours, client_of, asked, here, django_user_model
):
    from tests.web.hostile import sound

    picture = here / "one.jpg"
    picture.write_bytes(sound()[("pictures", "one.jpg")])
    bring(ours, picture)
    assert list((here / "kept").iterdir())
    stranger = client_of("somebody else")
    ask(stranger, "targets", {"name": "Theirs", "ra_deg": 1, "dec_deg": 1, "extent_deg": 1, "surface_mag": 21})
    told = json.loads(ours.get("/api/account/export").json()["text"])
    assert told["username"] == "demo" and "Theirs" not in json.dumps(told)
    counts = {kind: len(rows) for kind, rows in told["records"].items()}
    for kind in (
        "kit.Part",
        "kit.Rig",
        "kit.Placement",
        "grounds.Place",
        "grounds.Spot",
        "targets.Target",
        "nights.Run",
        "pictures.Picture",
    ):
        assert counts[kind] > 0, kind
    (trip,) = told["records"]["nights.Trip"]
    nights = {row["id"] for row in told["records"]["nights.Night"]}
    assert len(trip["nights"]) == 3 and set(trip["nights"]) <= nights and trip["rigs"] and trip["targets"]
    person = django_user_model.objects.get(username="demo")
    person.set_password("tape-and-tripod")
    person.save()
    ours.force_login(person)
    assert "password" in faults(ask(ours, "account/delete", {"password": "wrong"}))
    assert django_user_model.objects.filter(username="demo").exists()
    with TestCase.captureOnCommitCallbacks(execute=True):
        assert ask(ours, "account/delete", {"password": "tape-and-tripod"}).status_code == 200
    assert not django_user_model.objects.filter(username="demo").exists() and not list((here / "kept").iterdir())
    assert ours.get("/api/targets").status_code == 401
    assert [one["name"] for one in stranger.get("/api/targets").json()["items"]] == ["Theirs"]
