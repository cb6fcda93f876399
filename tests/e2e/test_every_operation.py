"""Every operation of the API with whatever a stranger may send: never a failure of the server, always the shape that is promised.

Examples are drawn from the API's own document by schemathesis, and by hand where no document would think of them.
"""

import contextlib
import json
import socket
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest
import requests
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.core.failures import FailureGroup
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance

from tests.demo import PASSWORD
from tests.e2e.conftest import Served, a_site

PROMISED = [response_schema_conformance, content_type_conformance]
EXAMPLES, NIGHTLY_EXAMPLES = 1, 12  # for each of a hundred operations, as described and against it
UNKIND = ("a\x00b", "half a pair \ud800", "two\nlines")
UNKIND_PATHS = (
    "parts?words=%00",
    "targets?offset=9223372036854775808",
    "targets?limit=-1",
    "pole/scope?rig=1&spot=1&at=yesterday",
    "pole/scope?rig=1&spot=1&at=2026-12-08T20:00:00",
    "alignments?night=never",
    f"targets/catalogue?words={'x' * 3000}",
    f"sessions?target={'9' * 30}",
    "pictures/measurements?night=0000-00-00",
)


@pytest.fixture(scope="module")
def site(demo_copy) -> Iterator[Served]:
    with a_site(demo_copy, "widedusk_fuzz") as one:
        yield one


@pytest.fixture(scope="module")
def signed(site) -> requests.Session:
    one = requests.Session()
    one.get(f"{site.address}/api/session")
    one.headers["X-CSRFToken"] = one.cookies["csrftoken"]
    answer = one.post(f"{site.address}/api/session", json={"username": "demo", "password": PASSWORD})
    assert answer.status_code == 200, answer.text
    one.headers["X-CSRFToken"] = one.cookies["csrftoken"]
    return one


@pytest.fixture(scope="module")
def schema(site, signed):
    document = signed.get(f"{site.address}/api/openapi.json").json()
    for path in [path for path in document["paths"] if path.startswith("/api/session") or path.startswith("/api/account")]:
        del document["paths"][path]  # they would sign the tester out; they have tests of their own
    document["components"].pop("securitySchemes", None)  # it would make up keys; the tester is signed in
    for methods in document["paths"].values():
        for operation in methods.values():
            operation.pop("security", None)
    found = schemathesis.openapi.from_dict(document)
    found.config.base_url = site.address
    return found


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE], ids=["as described", "against it"])
def test_no_operation_fails_whatever_it_is_asked(schema, signed, site, mode, pytestconfig):
    broken: list[str] = []
    seen, codes = 0, Counter()
    few = settings(
        max_examples=NIGHTLY_EXAMPLES if pytestconfig.getoption("everything") else EXAMPLES,
        derandomize=True,
        database=None,
        deadline=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )

    def ask(case) -> None:
        answer = case.call(base_url=site.address, session=signed)
        codes[answer.status_code] += 1
        if answer.status_code >= 500:
            sent = f"{case.method} {case.path} {case.path_parameters} {case.query} {str(case.body)[:300]}"
            broken.append(f"{sent}: {answer.text[:200]}")
            return
        try:
            case.validate_response(answer, checks=PROMISED)
        except FailureGroup as caught:
            broken.append(f"{case.method} {case.path}: {[str(one)[:600] for one in caught.exceptions]}")

    for result in schema.get_all_operations():
        seen += 1
        with contextlib.suppress(Unsatisfiable):  # where there is nothing that could be against the description
            few(given(case=result.ok().as_strategy(generation_mode=mode))(ask))()
    assert not broken, "\n".join(broken[:20])
    assert seen > 90 and codes[401] == codes[403] == 0 and codes[200 if mode is GenerationMode.POSITIVE else 422] > 30, codes


def refused(answer: requests.Response) -> bool:
    return 400 <= answer.status_code < 500 and all(fault["message"] for fault in answer.json()["faults"])


def test_unkind_words_and_numbers_end_in_a_sentence_at_every_door(signed, site):
    def send(path: str, body: object) -> requests.Response:
        text = body if isinstance(body, str) else json.dumps(body)
        return signed.post(f"{site.address}/api/{path}", data=text.encode(), headers={"Content-Type": "application/json"})

    target = {"name": "x", "ra_deg": 1, "dec_deg": 1, "extent_deg": 1, "surface_mag": 21}
    for words in UNKIND:
        assert refused(send("targets", {**target, "name": words})), words
        assert refused(send("session", {"username": words, "password": words})), words
    for number in ("NaN", "Infinity", "1e400", "-1e400", "9" * 400, "9" * 5000, '"nan"', "[]"):
        body = json.dumps(target).replace('"ra_deg": 1', f'"ra_deg": {number}')
        assert refused(send("targets", body)), number
    for body in ("", "[", "[" * 100_000, "null", "3", '"x"', "\ufeff{}", "{" + '"a":' * 200 + "1" + "}" * 200):
        assert refused(send("targets", body)), body[:20]
    for path in UNKIND_PATHS:
        assert refused(signed.get(f"{site.address}/api/{path}")), path
    for path in ("targets/99999999999999999999999", "plans/9223372036854775808"):
        assert signed.delete(f"{site.address}/api/{path}").status_code == 404
    assert signed.get(f"{site.address}/health").status_code == 200


def test_many_at_once_with_one_name_make_one_and_the_others_are_told(signed, site):
    body = {"name": "Sixteen at once", "ra_deg": 1, "dec_deg": 1, "extent_deg": 1, "surface_mag": 21}

    def make(_: int) -> requests.Response:
        return requests.post(f"{site.address}/api/targets", json=body, cookies=signed.cookies, headers=signed.headers, timeout=60)

    with ThreadPoolExecutor(16) as pool:
        answers = list(pool.map(make, range(16)))
    assert sorted(one.status_code for one in answers) == [201] + [422] * 15
    assert all("name" in one.json()["faults"][0]["field"] for one in answers if one.status_code == 422)


def test_connections_that_say_nothing_or_stop_in_the_middle_stall_nobody(signed, site):
    silent = [socket.create_connection(("127.0.0.1", site.port)) for _ in range(80)]
    halting = [socket.create_connection(("127.0.0.1", site.port)) for _ in range(6)]
    try:
        for one in halting:
            one.sendall(b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")
        for _ in range(5):
            assert signed.get(f"{site.address}/api/session", timeout=10).status_code == 200
    finally:
        for one in (*silent, *halting):
            one.close()
