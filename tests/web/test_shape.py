"""What must hold for every endpoint, now and later: typed, paginated, few queries."""

import subprocess
import sys
from dataclasses import is_dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import get_args, get_type_hints

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from pydantic import BaseModel

from tests.web.conftest import context_of
from widedusk.records.frames.models import Folder, Frame
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.kit.services import snapshot_of
from widedusk.records.nights.models import Night, Run, Trip
from widedusk.records.pictures.models import Measurement, Picture
from widedusk.records.pole.models import Alignment
from widedusk.records.targets.models import Target


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


@pytest.mark.parametrize(
    ("noun", "queries"),
    [("rigs", 9), ("places", 5), ("targets", 4), ("plans", 4), ("parts", 9), ("pictures", 4), ("alignments", 4)],
)
def test_lists_cost_the_same_few_queries_however_long(ours, noun, queries, django_assert_max_num_queries):
    with django_assert_max_num_queries(queries):
        assert ours.get(f"/api/{noun}").status_code == 200


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


def _more(owner, numbers: range) -> None:
    """More of everything that is listed."""

    def copies(kind, given, **more):
        values = {one.attname: getattr(given, one.attname) for one in kind._meta.concrete_fields if not one.primary_key}
        return kind.objects.bulk_create(kind(**{**values, "name": f"copy {number}", **more}) for number in numbers)

    rig, target, place = (kind.objects.of(owner).first() for kind in (Rig, Target, Place))
    spot = place.spots.first()
    copies(Part, Part.objects.of(owner).first())
    copies(Target, target)
    for row in copies(Rig, rig):
        same = {"arm_mm": 0, "along_mm": 0}
        Placement.objects.bulk_create(
            Placement(rig=row, part=one.part, order=one.order, carried=one.carried, **same) for one in rig.placements.all()
        )
    Spot.objects.bulk_create(Spot(place=row, name="here", horizon=[]) for row in copies(Place, place))
    copies(Run, Run.objects.of(owner).first())
    error = {"altitude_arcmin": 1, "azimuth_arcmin": 1, "altitude_sigma": 1, "azimuth_sigma": 1}
    asked = {"pictures": [], "pole": "refracted", "tolerance_arcmin": 10}
    result = {"error": error, "pictures": [], "turn_deg": 45, "stars": 9}
    night = date(2026, 12, 8)
    for number in numbers:
        common, name = {"owner": owner, "rig": rig, "spot": spot, "night": night}, f"number {number}"
        Alignment.objects.create(**common, **error, name=name, method="x", measured_at=datetime.now(UTC))
        told = {"state": "done", "result": result} if number % 2 else {"state": "waiting"}
        Measurement.objects.create(**common, target=target, task="axis", asked=asked, **told)
        Picture.objects.create(owner=owner, name=name, digest="", header={"kind": "JPEG", "width_px": 900, "height_px": 600})
        evening = Night.objects.create(owner=owner, name=name, spot=spot, date=night + timedelta(days=300 + number))
        lies = {"owner": owner, "night": evening, "rig": rig, "target": target, "path": name, "name": name}
        folder = Folder.objects.create(**lies, settled_at=datetime.now(UTC) + timedelta(days=1))
        for state in ("waiting", "failed", "done"):
            ended = None if state == "waiting" else datetime.now(UTC)
            common_to = {"owner": owner, "folder": folder, "size_bytes": 1, "changed_ns": 1}
            Frame.objects.create(**common_to, name=state, state=state, kind="dark", measured_at=ended)
        shot = {"state": "noted", "frames": 9, "exposure_s": 60, "f_number": 4, "snapshot": snapshot_of(rig)}
        Run.objects.create(owner=owner, name=name, target=target, night=evening, rig=rig, **shot)
        trip = Trip.objects.create(owner=owner, name=name, first_night=night, wake_time=time(7), drive_h=1)
        trip.nights.add(evening)


def test_lists_and_pages_cost_the_same_queries_with_few_rows_and_with_fifty(ours, django_user_model):
    owner = django_user_model.objects.get(username="demo")
    context = context_of(ours)
    night = {"spot": context["spot"], "night": context["night"]}
    pages: dict[str, dict] = {
        **{key: {} for key in ("rigs", "places", "targets", "plans", "trips", "parts", "pictures", "alignments", "sessions")},
        **{key: {} for key in ("pictures/measurements", "habits", "tonight/start")},
        **{key: {} for key in ("exchange/kit.json", "exchange/parts.csv", "exchange/rigs.csv")},
        **dict.fromkeys(("tonight", "exposure", "pole/need", "pole/rough", "pole/keeping"), context),
        "pole/scope": {"rig": context["rig"], "spot": context["spot"]},
        "packing": {**night, "rigs": context["rig"]},
        "frames/folders": {},
        "frames/folders/there": {},
    }

    def count(path: str, query: dict) -> int:
        ours.get(f"/api/{path}", query)  # what is remembered from one request to the next
        with CaptureQueriesContext(connection) as seen:
            answer = ours.get(f"/api/{path}", query)
        assert answer.status_code == 200, (path, answer.content[:300])
        return len(seen)

    _more(owner, range(2))
    before = {path: count(path, query) for path, query in pages.items()}
    _more(owner, range(2, 52))
    after = {path: count(path, query) for path, query in pages.items()}
    assert after == before and max(after.values()) <= 20, {path: (before[path], after[path]) for path in pages}
