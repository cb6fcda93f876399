"""What must hold for every endpoint, now and later: typed, paginated, few queries."""

import pytest

from tests.web.conftest import context_of


def operations(client):
    document = client.get("/api/openapi.json").json()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            yield document, path, method, operation


def test_every_endpoint_says_what_it_returns(ours):
    seen = 0
    for _, path, method, operation in operations(ours):
        good = [answer for status, answer in operation["responses"].items() if status.startswith("2")]
        assert good and all("schema" in answer["content"]["application/json"] for answer in good), (method, path)
        seen += 1
    assert seen > 20


def test_every_list_of_records_comes_in_pages_with_a_bound(ours):
    for document, path, method, operation in operations(ours):
        if method != "get" or path.endswith(("}", "time-zones")):
            continue
        schema = operation["responses"]["200"]["content"]["application/json"]["schema"]
        name = schema.get("$ref", "").rsplit("/", 1)[-1]
        assert schema.get("type") != "array", f"{path} is an unbounded list"
        if name.startswith("Paged"):
            limit = next(one for one in operation["parameters"] if one["name"] == "limit")
            assert limit["schema"]["maximum"] <= 200
            assert "count" in document["components"]["schemas"][name]["properties"]


@pytest.mark.parametrize(("noun", "queries"), [("rigs", 9), ("places", 5), ("targets", 4), ("plans", 4), ("parts", 9)])
def test_lists_cost_the_same_few_queries_however_long(ours, noun, queries, django_assert_max_num_queries):
    with django_assert_max_num_queries(queries):
        assert ours.get(f"/api/{noun}").status_code == 200


def test_a_night_costs_few_queries(ours, django_assert_max_num_queries):
    context = context_of(ours)
    with django_assert_max_num_queries(11):
        assert ours.get("/api/tonight", context).status_code == 200
