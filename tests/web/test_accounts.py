"""Sessions, throttling, the cross-site check and the headers."""

import json

import pytest
from django.contrib.auth import get_user_model
from django.test import Client, TestCase

from tests.demo import PASSWORD
from tests.web.conftest import begin, bring, faults, shot
from tests.web.conftest import send as ask
from tests.web.hostile import sound
from widedusk.records.pictures.models import Measurement
from widedusk.records.pole.models import Alignment
from widedusk.records.targets.models import Target


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


def test_who_may_make_an_account(demo, settings):
    """Open, until the first person besides the demo has one, or not at all; and not without end in one hour."""
    wanted = {"username": "mirja", "password": "lantern-and-tape"}
    settings.WIDE_DUSK_SIGN_UP = "closed"
    assert not Client().get("/api/session").json()["sign_up"]
    assert "New accounts are closed" in faults(send(Client(), "/api/session/account", wanted))["username"]
    settings.WIDE_DUSK_SIGN_UP = "first"
    assert Client().get("/api/session").json()["sign_up"], "the demo is nobody"
    assert send(Client(), "/api/session/account", wanted).status_code == 200
    assert not Client().get("/api/session").json()["sign_up"]
    assert send(Client(), "/api/session/account", {**wanted, "username": "jaak"}).status_code == 422
    settings.WIDE_DUSK_SIGN_UP, settings.WIDE_DUSK_ACCOUNTS_PER_HOUR = "open", 3
    codes = [send(Client(), "/api/session/account", {**wanted, "username": f"jaak{one}"}).status_code for one in range(4)]
    assert codes[0] == 200 and codes[-1] == 429


def test_one_password_tried_with_many_names_closes_the_door_too(demo):
    """No name is tried twice, so that no lock of a name and an address takes hold."""
    codes = [send(Client(), "/api/session", {"username": f"name{one}", "password": "summer"}).status_code for one in range(42)]
    assert set(codes[:40]) == {422} and set(codes[40:]) == {429}
    assert send(Client(), "/api/session", {"username": "demo", "password": PASSWORD}).status_code == 429


def test_one_person_cannot_fill_the_site(ours, asked, monkeypatch):
    """A few of each stand for the many that are allowed."""
    nobody = {"ra_deg": 1, "dec_deg": 1, "extent_deg": 1, "surface_mag": 21}
    here = Target.objects.of(get_user_model().objects.get(username="demo")).count()
    monkeypatch.setattr(Target, "MAX_RECORDS", here + 2)
    made = [ask(ours, "targets", {"name": f"Field {one}", **nobody}) for one in range(3)]
    assert [one.status_code for one in made] == [201, 201, 422] and "Delete some" in faults(made[2])["name"]
    monkeypatch.setattr(Target, "MAX_DELETED_TIMES", 0)
    for one in made[:2]:
        assert ours.delete(f"/api/targets/{one.json()['id']}").status_code in {200, 204}
    assert "still lie here" in faults(ask(ours, "targets", {"name": "Another", **nobody}))["name"]
    monkeypatch.setattr(Alignment, "MAX_RECORDS", 2)
    kept = [ask(ours, "alignments", {"context": asked, "method": "rough", "touched": ""}).status_code for _ in range(3)]
    assert kept == [201, 201, 422]


def test_work_that_waits_is_bounded_and_old_results_make_room(ours, asked, here, monkeypatch):
    picture = here / "one.jpg"
    picture.write_bytes(sound()[("pictures", "one.jpg")])
    brought = bring(ours, picture)
    monkeypatch.setattr(Measurement, "MAX_PENDING", 2)
    monkeypatch.setattr(Measurement, "MAX_KEPT", 3)

    def begun():
        return begin(ours, asked, [shot(brought, taken=None)], "pointing")

    assert [begun().status_code for _ in range(3)] == [201, 201, 422]
    Measurement.objects.update(state="failed")
    oldest = Measurement.objects.order_by("pk").first().pk
    for _ in range(3):
        assert begun().status_code == 201
        Measurement.objects.update(state="failed")
    assert Measurement.objects.count() == 3 and not Measurement.objects.filter(pk=oldest).exists()


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
