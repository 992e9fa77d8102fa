"""Tokens of programs: what they may, what they never may, and when they end."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from anabasis.design import Loaded
from anabasis.errors import InputRefused
from anabasis.server import create_app
from anabasis.store import ROLES, Store, Tokens
from anabasis.store.tokens import MARK, MOST
from tests.conftest import NOON, client_of, people_of

OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]
PATCH_TYPE = {"Content-Type": "application/json-patch+json"}


@pytest.fixture
def owner(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an owner; the demo is in designs `d` and `e`."""
    store.create("d", demo.raw, NOON)
    store.create("e", demo.raw, NOON)
    return client_of(store)


def made(client: TestClient, **wanted: Any) -> str:
    """Make a token of the person in a client; return its secret."""
    answer = client.post("/api/me/tokens", json={"name": "nightly", "scope": "read"} | wanted)
    assert answer.status_code == 201, answer.text
    return str(answer.json()["secret"])


def program(store: Store, secret: str, later: timedelta = timedelta()) -> TestClient:
    """Return a client that has a token and no cookie."""
    app = create_app(store, clock=lambda: NOON + later, accounts=people_of(store))
    return TestClient(app, base_url="https://127.0.0.1", headers={"Authorization": f"Bearer {secret}"})


def deeds(client: TestClient, design: str) -> dict[str, int]:
    """Try one thing a role allows and the one below does not; return the status of each."""
    version = int(client.get(f"/api/designs/{design}/draft").headers.get("etag", '"1"').strip('"'))
    seen = {"If-Match": f'"{version}"'}
    return {
        "read": client.get(f"/api/designs/{design}/draft").status_code,
        "edit": client.patch(f"/api/designs/{design}/draft", json=OFF, headers=PATCH_TYPE | seen).status_code,
        "publish": client.post(
            f"/api/designs/{design}/revisions", json={"reason": "x", "forced": "y"}, headers={"If-Match": '"99"'}
        ).status_code,
        "administer": client.put(f"/api/designs/{design}/roles", json={"name": "nobody", "role": "read"}).status_code,
    }


REACHED = {"read": 200, "edit": 200, "publish": 412, "administer": 404}
"""What each deed answers where it is allowed: the last two are let past the door, and fail on what they ask."""


@pytest.mark.parametrize("scope", ROLES)
@pytest.mark.parametrize("role", [*ROLES, "owner"])
def test_a_scope_caps_a_role(owner: TestClient, store: Store, role: str, scope: str) -> None:
    """What a program may is the lesser of its person's role and its scope."""
    person = owner
    if role != "owner":
        person = client_of(store, "Edda", owner=False)
        people_of(store).set_role("d", "Edda", role, "Oda", NOON)
    most = min(scope, ROLES[-1] if role == "owner" else role, key=ROLES.index)
    said = deeds(program(store, made(person, scope=scope)), "d")
    for deed, status in said.items():
        allowed = ROLES.index(deed) <= ROLES.index(most)
        assert status == (REACHED[deed] if allowed else 403), (deed, status)


def test_for_one_design_and_its_what_ifs(owner: TestClient, store: Store) -> None:
    """Others are not there; the list shows none of them, and no design can be added."""
    branch = owner.post("/api/designs/d/branches", json={"title": "more"}).json()["id"]
    client = program(store, made(owner, scope="administer", design=branch))
    assert {d["id"]: d["role"] for d in client.get("/api/designs").json()} == {"d": ROLES[-1], branch: ROLES[-1]}
    assert client.get(f"/api/designs/{branch}/draft").status_code == 200
    assert client.get("/api/designs/e/draft").status_code == 404
    assert client.post("/api/designs/new", json={"name": "More"}).status_code == 403
    assert client.post("/api/designs/new", json={"name": "More", "copy_of": "e"}).status_code == 403
    assert owner.post("/api/me/tokens", json={"name": "x", "scope": "read", "design": "none"}).status_code == 404


def test_designs_are_added_by_the_widest_scope_alone(owner: TestClient, store: Store) -> None:
    """And belong to the token's person."""
    assert (
        program(store, made(owner, name="p", scope="publish"))
        .post("/api/designs/new", json={"name": "More"})
        .status_code
        == 403
    )
    wide = program(store, made(owner, name="w", scope="administer"))
    new = wide.post("/api/designs/new", json={"name": "More"})
    assert new.status_code == 201
    assert people_of(store).roles(new.json()["id"]) == {"Oda": "administer"}


def test_people_are_no_business_of_programs(owner: TestClient, store: Store) -> None:
    """Not even of an owner's with the widest scope: accounts, passwords, sessions, tokens, the log."""
    client = program(store, made(owner, scope="administer"))
    paths = owner.get("/api/openapi.json").json()["paths"]
    tried = 0
    for path, methods in paths.items():
        if path.startswith(("/api/accounts", "/api/me/", "/api/log")) or (
            path == "/api/session" and "delete" in methods
        ):
            for method in set(methods) - ({"post"} if path == "/api/session" else set()):
                body = {"name": "x", "scope": "read", "password": "correct horse", "new": "correct horse"}
                asked = client.request(
                    method.upper(), path.replace("{name}", "Oda"), json=body, params={"disabled": True, "owner": True}
                )
                assert asked.status_code == 403, (method, path, asked.text)
                tried += 1
    assert tried >= 12
    me = client.get("/api/me").json()
    assert (me["name"], me["owner"], me["token"], me["scope"]) == ("Oda", False, "nightly", "administer")


def test_an_edit_says_which_program_made_it(owner: TestClient, store: Store) -> None:
    """The person answers for it, the token is told."""
    client = program(store, made(owner, scope="edit"))
    assert deeds(client, "d")["edit"] == 200
    (edit,) = store.edits("d", 0)
    assert edit.author == "Oda, by nightly"


def test_a_wrong_one_is_not_helped_by_a_cookie(owner: TestClient) -> None:
    """Whoever sends a token is judged by it."""
    for secret in ("", "x", MARK + "x", "\u00fc"):
        answer = owner.get("/api/me", headers={"Authorization": f"Bearer {secret}".encode()})
        assert answer.status_code == 401, secret
        assert answer.headers["www-authenticate"].startswith("Bearer")
    assert owner.get("/api/me", headers={"Authorization": "Basic x"}).status_code == 200


@pytest.mark.parametrize("ended", ["time", "its person", "shut out", "reset", "removed", "role"])
def test_it_ends(owner: TestClient, store: Store, ended: str) -> None:
    """With its time, by its person, and with all by which its person is let in no more."""
    people = people_of(store)
    edda = client_of(store, "Edda", owner=False)
    people.set_role("d", "Edda", "read", "Oda", NOON)
    secret = made(edda, days=3)
    before = program(store, secret, timedelta(days=2)).get("/api/designs/d/draft")
    assert before.status_code == 200
    (listed,) = edda.get("/api/me/tokens").json()
    assert listed["used_at"] is not None
    assert secret not in str(listed)
    later = timedelta()
    if ended == "time":
        later = timedelta(days=3)
    elif ended == "its person":
        assert owner.delete(f"/api/me/tokens/{listed['id']}").status_code == 404  # somebody else's
        assert edda.delete(f"/api/me/tokens/{listed['id']}").status_code == 204
    elif ended == "shut out":
        people.switch("Edda", True, "Oda", NOON)
    elif ended == "reset":
        people.reset("Edda", "Oda", NOON)
    elif ended == "removed":
        people.remove("Edda", "Oda", NOON)
    else:
        people.set_role("d", "Edda", None, "Oda", NOON)
    after = program(store, secret, later).get("/api/designs/d/draft")
    assert after.status_code == (404 if ended == "role" else 401)


def test_bad_wishes(owner: TestClient, store: Store) -> None:
    """Refused whole, with where: no name, a name twice, no such scope, no days or too many, too many tokens."""
    made(owner)
    bad: list[dict[str, Any]] = [
        {"name": "nightly"}, {"name": " "}, {"name": "a\nb"}, {"name": "x" * 41}, {"scope": "all"}, {"days": 0}, {"days": 367},
    ]  # fmt: skip
    for change in bad:
        answer = owner.post("/api/me/tokens", json={"name": "other", "scope": "read"} | change)
        assert answer.status_code == 422, change
        assert answer.json()["errors"], change
    person = next(p for p in people_of(store).all() if p.name == "Oda")
    for n in range(MOST - 1):
        Tokens(store.engine).make(person, f"n{n}", "read", None, 1, NOON)
    with pytest.raises(InputRefused):
        Tokens(store.engine).make(person, "one more", "read", None, 1, NOON)
    assert Tokens(store.engine).make(person, "one more", "read", None, 1, NOON + timedelta(days=2))  # those are over


def test_the_tables_hold_no_secret(owner: TestClient, store: Store) -> None:
    """A copy of them lets nobody in."""
    secret = made(owner)
    with store.engine.begin() as connection:
        rows = str(connection.execute(text("select * from token")).all())
        log = str(connection.execute(text("select * from audit")).all())
    assert secret not in rows
    assert secret.removeprefix(MARK) not in rows + log
    assert "made a token" in log
