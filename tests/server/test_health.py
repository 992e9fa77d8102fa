"""What whoever watches over the server is told, and what is logged: never a name, a path or a secret."""

from __future__ import annotations

import json
import logging

import pytest
from fastapi.testclient import TestClient

from anabasis.design import Loaded
from anabasis.server.logs import configured
from anabasis.store import Store
from tests.conftest import NOON, client_of, people_of


@pytest.fixture
def client(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an owner; the demo is design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def test_metrics(client: TestClient) -> None:
    """Requests by route and status, open to who is not signed in; routes, not paths."""
    client.get("/api/designs/d/draft")
    client.get("/api/designs/none/draft")
    client.cookies.clear()
    told = client.get("/metrics")
    assert told.headers["content-type"].startswith("text/plain")
    route = 'route="/api/designs/{design_id}/draft"'
    for status in (200, 404):
        assert f'anabasis_requests_total{{method="GET",{route},status="{status}"}} 1.0' in told.text
    assert "anabasis_database_up 1.0" in told.text
    assert "/enter/{secret}" in told.text
    assert "none" not in told.text


def test_every_answer_has_an_id_and_its_line(
    client: TestClient, store: Store, caplog: pytest.LogCaptureFixture
) -> None:
    """The proxy's id, where it is one, else one of our own; the line holds the route and no secret of it."""
    people = people_of(store)
    secret = people.link(people.all()[0].id, NOON)
    with caplog.at_level(logging.INFO, "anabasis.requests"):
        taken = client.get(f"/enter/{secret}", headers={"X-Request-Id": "from-the-proxy.7"}, follow_redirects=False)
        made = client.get("/api/me", headers={"X-Request-Id": "line\tbreak <script>"})
    assert taken.headers["X-Request-Id"] == "from-the-proxy.7"
    assert made.headers["X-Request-Id"].isalnum()
    lines = [vars(r) for r in caplog.records if r.name == "anabasis.requests"]
    assert [(r["request"], r["route"], r["status"]) for r in lines] == [
        ("from-the-proxy.7", "/enter/{secret}", 303),
        (made.headers["X-Request-Id"], "/api/me", 200),
    ]
    assert secret not in json.dumps(lines, default=str)


def test_lines_of_json() -> None:
    """`json` makes a formatter that writes JSON; `plain` keeps requests to themselves."""
    assert configured("json")["formatters"]["one"]["()"].endswith("JsonFormatter")
    assert configured("json")["loggers"]["anabasis.requests"]["level"] == "INFO"
    assert configured("plain")["loggers"]["anabasis.requests"]["level"] == "ERROR"
