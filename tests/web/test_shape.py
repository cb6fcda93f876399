"""What must hold for every endpoint, now and later: typed, paginated, few queries."""

import subprocess
import sys
from dataclasses import is_dataclass
from typing import get_args, get_type_hints

from pydantic import BaseModel

from tests.web.conftest import context_of
from widedusk.command import worker


def operations(client):
    document = client.get("/api/openapi.json").json()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            yield document, path, method, operation


def test_every_endpoint_says_what_it_returns(ours):
    seen = 0
    for _, path, method, operation in operations(ours):
        good = [answer for status, answer in operation["responses"].items() if status.startswith("2")]
        assert good and all("schema" in next(iter(answer["content"].values())) for answer in good), (method, path)
        seen += 1
    assert seen > 20


def test_every_list_of_records_comes_in_pages_with_a_bound(ours):
    for document, path, method, operation in operations(ours):
        if method != "get" or path.endswith(("}", "time-zones", ".jpg", ".zip", ".fits")):
            continue
        schema = operation["responses"]["200"]["content"]["application/json"]["schema"]
        name = schema.get("$ref", "").rsplit("/", 1)[-1]
        assert schema.get("type") != "array", f"{path} is an unbounded list"
        if name.startswith("Paged"):
            limit = next(one for one in operation["parameters"] if one["name"] == "limit")
            assert limit["schema"]["maximum"] <= 200
            assert "count" in document["components"]["schemas"][name]["properties"]


def test_a_night_costs_few_queries(ours, django_assert_max_num_queries):
    context = context_of(ours)
    with django_assert_max_num_queries(8):
        assert ours.get("/api/tonight", context).status_code == 200
    with django_assert_max_num_queries(11):
        assert ours.get("/api/exposure", context).status_code == 200


def test_the_web_server_carries_no_solver():
    """Stars are found and named by the worker alone."""
    heavy = "sep tetra3rs rawpy tifffile imagecodecs"
    code = (
        f"import django, sys; django.setup(); import widedusk.urls; print([one for one in {heavy.split()} if one in sys.modules])"
    )
    assert subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout.strip() == "[]"


def test_a_worker_carries_no_api(demo_copy):
    """As it is started by the command, until its queue is empty."""
    code = (
        "import atexit, sys; from django.core.management import execute_from_command_line as run; "
        "atexit.register(lambda: print([name for name in sys.modules if name.startswith('widedusk.api')])); "
        f"run({[*worker.words(worker.ERRANDS), '--one-shot']!r})"
    )
    done = subprocess.run([sys.executable, "-c", code], check=False, capture_output=True, text=True)
    assert (done.returncode, done.stdout.strip()) == (0, "[]"), done.stdout + done.stderr


def test_no_two_shapes_of_the_api_share_a_name():
    """The document calls a shape by its class alone: of two with one name, the second would silently replace the first."""
    used: dict[str, set[type]] = {}

    def walk(kind: object) -> None:
        for inner in get_args(kind):
            walk(inner)
        if isinstance(kind, type) and (is_dataclass(kind) or issubclass(kind, BaseModel)):
            known = used.setdefault(kind.__name__, set())
            if kind in known:
                return
            known.add(kind)
            for inner in get_type_hints(kind).values():
                walk(inner)

    from widedusk.api import api

    for _, router in api._routers:
        for path in router.path_operations.values():
            for operation in path.operations:
                for model in operation.response_models.values():
                    if model is not None:
                        walk(model.model_fields["response"].annotation)
    assert len(used) > 60
    assert {name: kinds for name, kinds in used.items() if len(kinds) > 1} == {}
