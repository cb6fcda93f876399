"""Sessions, throttling, the cross-site check and the headers."""

import json

import pytest
from django.contrib.auth import get_user_model
from django.test import Client

from tests.demo import PASSWORD
from tests.web.conftest import faults


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
