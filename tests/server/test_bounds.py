"""Inputs that are wrong, too long or too deep are refused as such: never a 500, and never "the store does not answer"."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.design.edits import DEEPEST, MOST_OPERATIONS
from anabasis.store import Store
from tests.conftest import NOON, client_of


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an application that holds the demo."""
    store.create("tidewrack", demo.raw, NOON)
    return client_of(store, raise_server_exceptions=False)


def edit(client: TestClient, text: str) -> Any:
    """Send a patch as it is written."""
    seen = client.get("/api/designs/tidewrack/draft").headers["etag"]
    headers = {"If-Match": seen, "Content-Type": "application/json-patch+json"}
    return client.patch("/api/designs/tidewrack/draft", content=text, headers=headers)


DEEP = "[" * 900 + "]" * 900
DOUBLING = (
    '[{"op": "add", "path": "/vlans/0/note", "value": "x"},'
    + ",".join(['{"op": "copy", "from": "/vlans", "path": "/vlans/0/vlans"}'] * 40)
    + "]"
)


@pytest.mark.parametrize(
    "text",
    [
        f'[{{"op": "add", "path": "/note", "value": {DEEP}}}]',
        "[" + ",".join(['{"op": "test", "path": "/name", "value": 1}'] * (MOST_OPERATIONS + 1)) + "]",
        DOUBLING,
        '[{"op": "add", "path": "/note", "value": NaN}]',
        '[{"op": "replace", "path": "/name", "value": "a\\u0000b"}]',
        '[{"op": "add", "path": "/vlans/-", "value": {"id": 1e400, "name": "x"}}]',
        '[{"path": "/note"}]',
        "[1]",
        "{}",
        "[",
    ],
    ids=["deep", "long", "doubling", "nan", "nul", "infinite", "no-op", "number", "mapping", "broken"],
)
def test_what_is_wrong_is_refused_as_wrong(client: TestClient, text: str) -> None:
    """With problem details, and the draft as it was."""
    before = client.get("/api/designs/tidewrack/draft").json()
    answer = edit(client, text)
    assert answer.status_code in (400, 413, 422), answer.text
    assert answer.headers["content-type"].startswith("application/problem+json")
    assert client.get("/api/designs/tidewrack/draft").json() == before


def test_as_deep_as_is_allowed(client: TestClient) -> None:
    """The limit is where it is said to be: one level less is refused for what it says, not for its depth."""
    for levels, deep in ((DEEPEST - 1, False), (DEEPEST + 1, True)):
        value = "[" * levels + "]" * levels
        assert ("nested too deep" in edit(client, f'[{{"op": "add", "path": "/note", "value": {value}}}]').text) is deep


def test_an_empty_patch_is_no_edit(client: TestClient) -> None:
    """It is answered, and nothing is written; of an older version it is refused as any edit is."""
    before = client.get("/api/designs/tidewrack/draft").json()["version"]
    assert edit(client, "[]").json()["version"] == before
    headers = {"If-Match": '"99"', "Content-Type": "application/json-patch+json"}
    assert client.patch("/api/designs/tidewrack/draft", content="[]", headers=headers).status_code == 412


def test_a_role_on_nothing(client: TestClient) -> None:
    """What is named is not there: that is said."""
    for design in ("nowhere", "a%00b"):
        answer = client.put(f"/api/designs/{design}/roles/Finn", json={"role": "read"})
        assert answer.status_code in (404, 405, 422), answer.text


def test_whether_it_runs_is_told_to_anybody(store: Store) -> None:
    """Without signing in; with the version."""
    client = client_of(store)
    client.cookies.clear()
    answer = client.get("/healthz")
    assert (answer.status_code, answer.json()["database"]) == (200, True)


def test_large_answers_are_compressed(client: TestClient) -> None:
    """The stream of events is not."""
    answer = client.get("/api/designs/tidewrack/draft", headers={"Accept-Encoding": "gzip"})
    assert answer.headers["content-encoding"] == "gzip"


def test_a_key_that_stands_twice_in_a_patch_is_refused(store: Store, demo: Loaded) -> None:
    """Of two values a reader would take one in silence; nothing is changed."""
    store.create("d", demo.raw, NOON)
    client = client_of(store)
    twice = '[{"op": "add", "path": "/note", "value": "one", "value": "two"}]'
    headers = {"If-Match": '"1"', "Content-Type": "application/json-patch+json"}
    answer = client.patch("/api/designs/d/draft", content=twice, headers=headers)
    assert answer.status_code == 422
    assert "stands twice" in answer.json()["detail"]
    assert client.get("/api/designs/d/draft").json()["version"] == 1


def test_edits_come_in_pages(store: Store, demo: Loaded) -> None:
    """So many at most, each page after the last version of the one before; more than a thousand is not asked for."""
    store.create("d", demo.raw, NOON)
    client = client_of(store)
    for version in range(1, 6):
        store.edit("d", version, [{"op": "add", "path": "/note", "value": str(version)}], "Oda", NOON)
    seen, since = [], 0
    while page := client.get("/api/designs/d/edits", params={"since": since, "limit": 2}).json():
        assert len(page) <= 2
        seen += [e["version"] for e in page]
        since = seen[-1]
    assert seen == [2, 3, 4, 5, 6]
    assert client.get("/api/designs/d/edits", params={"limit": 5000}).status_code == 422
