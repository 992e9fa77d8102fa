"""HTTP, over a real store: edits with If-Match, problem details, views."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis import errors
from anabasis.design import Loaded, dump_yaml, parse_text
from anabasis.server.problems import STATUS, status_of
from anabasis.store import Store
from tests.conftest import NOON, client_of

PATCH_TYPE = {"Content-Type": "application/json-patch+json"}
OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an application that holds the demo as design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def patch(client: TestClient, operations: Any, version: int | None = 1, **headers: str) -> Any:
    """Send an edit."""
    seen = {"If-Match": f'"{version}"'} if version else {}
    return client.patch("/api/designs/d/draft", json=operations, headers=PATCH_TYPE | seen | headers)


def test_the_draft_has_a_version(client: TestClient) -> None:
    """As its ETag (RFC 9110)."""
    answer = client.get("/api/designs/d/draft")
    assert answer.headers["etag"] == '"1"'
    assert answer.json()["document"]["name"] == "Tidewrack Aquarium"


def test_an_edit_answers_with_its_consequences(client: TestClient) -> None:
    """Switching a rule off closes two pairs; undo opens them again."""
    answer = patch(client, OFF)
    assert answer.status_code == 200
    assert answer.headers["etag"] == '"2"'
    closed = answer.json()["consequences"]["closed"]
    assert {c["target"] for c in closed} == {"life-support", "tank-sensors", "life-support@chiller-1"}
    back = client.post("/api/designs/d/draft/undo", headers={"If-Match": '"2"'}).json()
    assert len(back["consequences"]["opened"]) == 3
    assert (answer.json()["undo_of"], back["undo_of"]) == ("Oda", None)
    assert (back["can_undo"], back["can_redo"]) == (False, True)
    assert client.post("/api/designs/d/draft/redo", headers={"If-Match": '"3"'}).json()["version"] == 4
    assert [e["kind"] for e in client.get("/api/designs/d/edits").json()] == ["edit", "undo", "redo"]
    assert client.get("/api/designs/d/edits", params={"since": 3}).json()[0]["author"] == "Oda"
    assert client.get("/api/designs/d/draft/last-edit").json()["consequences"]["closed"] == closed


def test_an_edit_without_a_version_is_not_taken(client: TestClient) -> None:
    """428, and nothing changed; a version that is none likewise."""
    for headers in ({}, {"If-Match": "*"}, {"If-Match": '"x"'}):
        answer = client.patch("/api/designs/d/draft", json=OFF, headers=PATCH_TYPE | headers)
        assert answer.status_code == 428
    assert client.get("/api/designs/d/draft").headers["etag"] == '"1"'


def test_the_second_of_two_editors_is_told(client: TestClient) -> None:
    """412 with what changed since the version they saw."""
    patch(client, OFF)
    answer = patch(client, [{"op": "replace", "path": "/name", "value": "Mine"}])
    body = answer.json()
    assert (answer.status_code, body["seen"], body["now"]) == (412, 1, 2)
    assert answer.headers["content-type"] == "application/problem+json"
    assert body["changes"][0]["patch"] == OFF
    assert body["changes"][0]["author"] == "Oda"


@pytest.mark.parametrize(
    ("operations", "pointer"),
    [
        ([{"op": "replace", "path": "/devices/4/ports/0/zone", "value": "streat"}], "/devices/4/ports/0/zone"),
        ([{"op": "replace", "path": "/vlans/0/id", "value": 4095}], "/vlans/0/id"),
        ([{"op": "remove", "path": "/nowhere"}], "/nowhere"),
    ],
)
def test_a_bad_edit_is_refused_with_every_problem(client: TestClient, operations: Any, pointer: str) -> None:
    """422 with where, what was given, what is allowed, the nearest name; the draft stays."""
    answer = patch(client, operations)
    assert answer.status_code == 422
    errors_ = answer.json()["errors"]
    assert pointer in [e["pointer"] for e in errors_]
    assert all(e["sentence"] for e in errors_)
    assert client.get("/api/designs/d/draft").json()["version"] == 1


def test_bodies_that_are_no_edit(client: TestClient) -> None:
    """422 as problem details."""
    for body in ('{"a": 1}', "[", "[1]"):
        answer = client.patch("/api/designs/d/draft", content=body, headers=PATCH_TYPE | {"If-Match": '"1"'})
        assert answer.status_code == 422
        assert answer.json()["title"]


def test_cells(client: TestClient) -> None:
    """Many cells, one edit; an unknown port is 404 with the nearest name."""
    cells = [{"device": "tank-sw", "port": "across", "vlan": v, "cell": "none"} for v in (130, 180)]
    answer = client.post("/api/designs/d/draft/memberships", json=cells, headers={"If-Match": '"1"'})
    assert answer.json()["patch"] == [{"op": "remove", "path": "/devices/6/lags/0/tagged"}]
    assert {r["whole"] for r in answer.json()["consequences"]["split"]} == {"keepers", "intercom"}
    wrong = client.post(
        "/api/designs/d/draft/memberships", json=[cells[0] | {"port": "acros"}], headers={"If-Match": '"2"'}
    )
    assert wrong.status_code == 404
    assert wrong.json()["errors"][0]["nearest"] == "across"
    odd = client.post(
        "/api/designs/d/draft/memberships", json=[cells[0] | {"cell": "maybe"}], headers={"If-Match": '"2"'}
    )
    assert odd.status_code == 422


def test_views(client: TestClient) -> None:
    """Each answers with the version it speaks of."""
    base = "/api/designs/d/views"
    assert client.get(f"{base}/climb").json()["begin_at"] is None
    assert client.get(f"{base}/grid").json()["rows"][0]["vlan"] == 110
    assert len(client.get(f"{base}/matrix", params={"service": "https"}).json()["cells"]) == 13
    pair = client.get(f"{base}/pair", params={"source": "keepers", "target": "recorders"})
    assert (pair.json()["verdict"], pair.headers["etag"]) == ("some", '"1"')
    assert client.get(f"{base}/item", params={"pointer": "/vlans/2"}).json()["title"] == "130 keepers"
    assert any(n["kind"] == "Rule" for n in client.get(f"{base}/names").json())


@pytest.mark.parametrize(
    ("path", "status", "said"),
    [
        ("/api/designs/x/draft", 404, "no design 'x'"),
        ("/api/designs/d/views/pair?source=keeper&target=lab", 404, "did you mean 'keepers'"),
        ("/api/designs/d/views/matrix?service=htps", 404, "did you mean 'https'"),
        ("/api/designs/d/views/matrix?family=5", 404, "4 or 6"),
        ("/api/designs/d/views/item?pointer=/nope/1", 404, "nothing is there"),
        ("/api/designs/d/edits?since=-1", 422, "greater than or equal"),
        ("/api/nothing", 404, "Not Found"),
    ],
)
def test_questions_that_cannot_be_answered(client: TestClient, path: str, status: int, said: str) -> None:
    """Problem details, always."""
    answer = client.get(path)
    assert (answer.status_code, said in answer.json()["detail"]) == (status, True), answer.text
    assert answer.headers["content-type"] == "application/problem+json"


def test_designs_in_and_out(client: TestClient, demo: Loaded) -> None:
    """A file comes in as text and goes out as YAML or JSON, the same tree; removal removes."""
    made = client.post("/api/designs", content=dump_yaml(demo.raw), headers={"Content-Type": "application/yaml"})
    assert made.status_code == 201
    identity = made.json()["id"]
    for form in ("yaml", "json"):
        out = client.get(f"/api/designs/{identity}/file", params={"form": form})
        assert parse_text(out.text) == demo.raw
        assert f"tidewrack-aquarium.{form}" in out.headers["content-disposition"]
    assert len(client.get("/api/designs").json()) == 2
    assert client.delete(f"/api/designs/{identity}").status_code == 204
    assert client.get(f"/api/designs/{identity}/draft").status_code == 404
    bad = client.post("/api/designs", content="anabasis: 2", headers={"Content-Type": "application/yaml"})
    assert bad.status_code == 422


def test_every_error_has_a_status() -> None:
    """The map of errors to statuses is complete: each class, or one above it, is in it."""
    kinds = [k for k in vars(errors).values() if isinstance(k, type) and issubclass(k, errors.AnabasisError)]
    assert len(kinds) >= 9
    for kind in kinds:
        assert any(k in STATUS for k in kind.__mro__)
    assert status_of(errors.UnreadableFile([])) == 422
