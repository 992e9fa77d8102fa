"""Who gets in, and what each may do: sign-in, sessions, forged requests, roles, the log."""

from __future__ import annotations

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from anabasis.design import Loaded
from anabasis.errors import NotLetIn
from anabasis.server import create_app
from anabasis.store import ROLES, Store
from anabasis.store.people import LINK_LASTS, SESSION_LASTS, TRIES
from tests.conftest import NOON, client_of, people_of

PATCH_TYPE = {"Content-Type": "application/json-patch+json"}
OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]
WORD = "correct horse"


@pytest.fixture
def owner(store: Store, demo: Loaded) -> TestClient:
    """Return a client of an owner; the demo is design `d`."""
    store.create("d", demo.raw, NOON)
    return client_of(store)


def door(store: Store) -> TestClient:
    """Return a client that nobody has signed in."""
    return TestClient(create_app(store, clock=lambda: NOON, accounts=people_of(store)), base_url="https://127.0.0.1")


def test_nothing_is_shown_to_nobody(owner: TestClient, store: Store) -> None:
    """Every path of the interface but the door answers 401."""
    stranger = door(store)
    paths = owner.get("/api/openapi.json").json()["paths"]
    for path, methods in paths.items():
        for method in methods:
            if (path, method) == ("/api/session", "post"):
                continue
            answer = stranger.request(method.upper(), path.replace("{design_id}", "d"), json={})
            assert answer.status_code in (401, 422), (method, path, answer.status_code)
            assert answer.status_code == 401 or "design" not in answer.json().get("detail", ""), path


def test_signing_in_and_out(owner: TestClient, store: Store) -> None:
    """The cookie is out of reach of scripts and of other sites; after signing out it opens nothing."""
    client = door(store)
    answer = client.post("/api/session", json={"name": "Oda", "password": WORD})
    assert answer.status_code == 204
    flags = answer.headers["set-cookie"].lower()
    assert all(flag in flags for flag in ("httponly", "secure", "samesite=strict", "path=/"))
    me = client.get("/api/me").json()
    assert (me["name"], me["owner"]) == ("Oda", True)
    cookie = dict(client.cookies)
    assert client.delete("/api/session", headers={"X-CSRF-Token": me["csrf"]}).status_code == 204
    client.cookies.update(cookie)
    assert client.get("/api/me").status_code == 401


def test_sign_in_is_slowed_down(owner: TestClient, store: Store) -> None:
    """After some failures even the right password waits; a name that is none fails alike."""
    client = door(store)
    for name in ("Oda", "nobody at all"):
        for _ in range(TRIES):
            assert client.post("/api/session", json={"name": name, "password": "wrong"}).status_code == 401
        answer = client.post("/api/session", json={"name": name, "password": WORD})
        assert answer.status_code == 429
        assert int(answer.headers["retry-after"]) > 0
    people = people_of(store)
    assert people.signed(people.sign_in("Oda", WORD, NOON + timedelta(minutes=6)).cookie, NOON + timedelta(minutes=7))


def test_a_link_lets_in_once(store: Store) -> None:
    """And not when it is old; a session ends by itself."""
    people = people_of(store)
    person = people.ensure("local", NOON)
    assert people.ensure("local", NOON) == person
    secret = people.link(person.id, NOON)
    signed = people.signed(people.enter(secret, NOON).cookie, NOON)
    assert signed
    assert signed.person == person
    with pytest.raises(NotLetIn):
        people.enter(secret, NOON)
    old = people.link(person.id, NOON)
    with pytest.raises(NotLetIn):
        people.enter(old, NOON + LINK_LASTS + timedelta(seconds=1))
    cookie = people.enter(people.link(person.id, NOON), NOON).cookie
    assert people.signed(cookie, NOON + SESSION_LASTS + timedelta(seconds=1)) is None
    assert door(store).get("/enter/no-such-secret", follow_redirects=False).headers["location"] == "/?link=used"


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"X-CSRF-Token": "wrong"}, 403),
        ({"X-CSRF-Token": ""}, 403),
        ({"Origin": "https://elsewhere.example"}, 403),
        ({"Origin": "null"}, 403),
        ({"Sec-Fetch-Site": "cross-site"}, 403),
        ({"Host": "elsewhere.example"}, 400),
        ({"Origin": "https://127.0.0.1", "Sec-Fetch-Site": "same-origin"}, 200),
    ],
)
def test_a_page_elsewhere_drives_nothing(owner: TestClient, headers: dict[str, str], status: int) -> None:
    """The cookie alone makes no change: the page's own token, and our own host and origin, are needed as well."""
    seen = PATCH_TYPE | {"If-Match": '"1"'}
    assert owner.patch("/api/designs/d/draft", json=OFF, headers=seen | headers).status_code == status
    kept = owner.get("/api/designs/d/draft").json()["version"]
    assert kept == (2 if status == 200 else 1)


def test_every_answer_has_the_headers(owner: TestClient, store: Store) -> None:
    """A strict policy of content, also on refusals."""
    for answer in (owner.get("/api/me"), door(store).get("/api/me"), owner.get("/nowhere")):
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "script-src 'self';" in policy
        assert "frame-ancestors 'none'" in policy
        assert answer.headers["x-content-type-options"] == "nosniff"


def test_what_each_role_may(owner: TestClient, store: Store) -> None:
    """Reading, editing, publishing, administering: each includes those before it; without a role the design is not there."""
    edda = client_of(store, "Edda", owner=False)
    asked: list[tuple[str, str, str, Any, dict[str, str]]] = [
        ("read", "get", "/api/designs/d/draft", None, {}),
        ("read", "post", "/api/designs/d/draft/preview", OFF, PATCH_TYPE),
        ("edit", "post", "/api/designs/d/draft/undo", None, {"If-Match": '"1"'}),
        ("edit", "post", "/api/designs/d/branches", {"title": "x"}, {}),
        ("publish", "post", "/api/designs/d/revisions", {"reason": "x"}, {"If-Match": '"77"'}),
        ("administer", "get", "/api/designs/d/log", None, {}),
        ("administer", "put", "/api/designs/d/roles", {"name": "nobody", "role": "read"}, {}),
    ]
    for role in (None, *ROLES):
        assert owner.put("/api/designs/d/roles", json={"name": "Edda", "role": role}).status_code == 204
        assert [d["id"] for d in edda.get("/api/designs").json() if not d["branch_of"]] == (["d"] if role else [])
        for needed, method, path, body, headers in asked:
            extra = {"json": body} if body is not None else {}
            status = edda.request(method, path, headers=headers, **extra).status_code
            able = role is not None and ROLES.index(role) >= ROLES.index(needed)
            assert (status not in (403,) and status != 401) if able else status == (404 if role is None else 403)
    assert edda.put("/api/designs/d/roles", json={"name": "Edda", "role": "read"}).status_code == 403
    assert edda.post("/api/accounts", json={"name": "more", "password": "long enough"}).status_code == 403
    assert edda.get("/api/log").status_code == 403


def test_accounts(owner: TestClient, store: Store) -> None:
    """Made by owners; shut out, sessions end at once; a password changed ends the others."""
    new = {"name": "  Jorun   Vik ", "password": "a long word"}
    assert owner.post("/api/accounts", json=new).json()["name"] == "Jorun Vik"
    for bad in (new, {"name": "x", "password": "short"}, {"name": " ", "password": "a long word"}):
        assert owner.post("/api/accounts", json=bad).status_code == 422
    jorun, elsewhere = door(store), door(store)
    for client in (jorun, elsewhere):
        assert client.post("/api/session", json={"name": "Jorun Vik", "password": "a long word"}).status_code == 204
    token = {"X-CSRF-Token": jorun.get("/api/me").json()["csrf"]}
    wrong = jorun.put("/api/me/password", json={"old": "no", "new": "another long word"}, headers=token)
    assert wrong.status_code == 401
    right = jorun.put("/api/me/password", json={"old": "a long word", "new": "another long word"}, headers=token)
    assert right.status_code == 204
    assert (jorun.get("/api/me").status_code, elsewhere.get("/api/me").status_code) == (200, 401)
    assert owner.put("/api/accounts/Jorun Vik/disabled", params={"disabled": True}).json()["disabled"]
    assert jorun.get("/api/me").status_code == 401
    assert owner.put("/api/accounts/Oda/disabled", params={"disabled": True}).status_code == 422
    assert owner.put("/api/accounts/Odda/disabled", params={"disabled": True}).status_code == 404


def test_the_log_is_only_added_to(owner: TestClient, store: Store) -> None:
    """What was done stands in it without any secret; the database refuses to change or remove a line."""
    people = people_of(store)
    owner.post("/api/accounts", json={"name": "Edda", "password": "a long word"})
    owner.put("/api/designs/d/roles", json={"name": "Edda", "role": "read"})
    owner.post("/api/designs/d/revisions", json={"reason": "as built"}, headers={"If-Match": '"1"'})
    deeds = owner.get("/api/log").json()
    assert [d["what"] for d in deeds][:3] == ["published", "set a role", "added an account"]
    link = people.link(people.all()[0].id, NOON)
    with store.engine.begin() as connection:
        kept = [
            str(r)
            for t in ("audit", "account", "session", "link")
            for r in connection.execute(text(f"select * from {t}"))
        ]
    cookies = list(owner.cookies.values())
    assert not [r for r in kept for secret in ("a long word", WORD, link, *cookies) if secret in r]
    for change in (
        "update audit set who = 'x'",
        "delete from audit",
        "update revision set reason = 'x'",
        "delete from revision",
    ):
        with pytest.raises(DBAPIError, match="only ever added to"), store.engine.begin() as connection:
            connection.execute(text(change))
    assert owner.delete("/api/designs/d").status_code == 204
    assert owner.get("/api/log").json()[0]["what"] == "removed"


def entered(store: Store, name: str = "Oda", word: str = WORD) -> TestClient:
    """Return a client that somebody has signed in with by password; its changes carry the token."""
    client = door(store)
    assert client.post("/api/session", json={"name": name, "password": word}).status_code == 204
    client.headers["X-CSRF-Token"] = client.get("/api/me").json()["csrf"]
    return client


def test_many_tries_at_once_are_counted_one_by_one(owner: TestClient, store: Store) -> None:
    """Of sixty wrong guesses sent together no more are compared than of sixty sent one after the other."""
    stranger = door(store)

    def guess(k: int) -> int:
        return stranger.post("/api/session", json={"name": "Oda", "password": f"guess number {k}"}).status_code

    with ThreadPoolExecutor(30) as pool:
        told = Counter(pool.map(guess, range(60)))
    assert told[401] <= TRIES
    assert told[401] + told[429] == 60


def test_wrong_guesses_of_others_shut_nobody_out(owner: TestClient, store: Store) -> None:
    """The browser in which somebody signed in before still lets them in, from the same address, while others guess."""
    mine, stranger = entered(store), door(store)
    for _ in range(TRIES + 1):
        stranger.post("/api/session", json={"name": "Oda", "password": "wrong"})
    assert stranger.post("/api/session", json={"name": "Oda", "password": WORD}).status_code == 429
    assert mine.delete("/api/session").status_code == 204
    assert mine.post("/api/session", json={"name": "Oda", "password": WORD}).status_code == 204
    thief = door(store)
    thief.cookies.update({k: v for k, v in mine.cookies.items() if k.endswith("known")})
    for _ in range(TRIES):
        assert thief.post("/api/session", json={"name": "Oda", "password": "wrong"}).status_code == 401
    assert thief.post("/api/session", json={"name": "Oda", "password": WORD}).status_code == 429, "and is no free pass"


@pytest.mark.parametrize("weak", ["password12", "aaaaaaaaaaaa", "1234567890", "qwertyuiop", "OdaOdaOdaOda"])
def test_common_and_repeated_passwords_are_refused(owner: TestClient, weak: str) -> None:
    """What stands on every list is no password, nor one's own name over again."""
    answer = owner.post("/api/accounts", json={"name": "Oda Berg", "password": weak})
    assert answer.status_code == 422
    assert "easily guessed" in answer.json()["errors"][0]["message"]
    assert owner.put("/api/me/password", json={"old": WORD, "new": WORD}).status_code == 422


@pytest.mark.parametrize("name", ["Оda", "oda", "O\u200bda", "a/b", "..", "a?b", "a#b", "50%", "a\\b"])
def test_names_that_mislead_or_no_address_can_carry(owner: TestClient, name: str) -> None:
    """A name that one would take for another's, or that its own address cannot name, is refused."""
    assert owner.post("/api/accounts", json={"name": name, "password": "a long word indeed"}).status_code == 422


def test_an_owner_stays(owner: TestClient, store: Store) -> None:
    """Owners can be demoted, shut out and removed, but never the last one; nobody removes themselves."""
    owner.post("/api/accounts", json={"name": "Edda", "password": "a long word indeed", "owner": True})
    edda = entered(store, "Edda", "a long word indeed")
    assert edda.put("/api/accounts/Oda/owner", params={"owner": False}).status_code == 200
    assert owner.put("/api/accounts/Oda/owner", params={"owner": True}).status_code == 403
    for method, path in (("PUT", "owner?owner=false"), ("PUT", "disabled?disabled=true")):
        answer = edda.request(method, f"/api/accounts/Edda/{path}")
        assert answer.status_code == 422, answer.json()
    assert edda.delete("/api/accounts/Edda").status_code == 422
    assert edda.delete("/api/accounts/Oda").status_code == 204
    assert owner.get("/api/me").status_code == 401
    assert [p["name"] for p in edda.get("/api/accounts").json()] == ["Edda"]
    assert edda.get("/api/log").json()[0]["what"] == "removed an account"


def test_a_password_is_reset(owner: TestClient, store: Store) -> None:
    """The old one and its sessions end; the link lets in once, to set another; a used link never lives again."""
    owner.post("/api/accounts", json={"name": "Edda", "password": "a long word indeed"})
    edda = entered(store, "Edda", "a long word indeed")
    path = owner.post("/api/accounts/Edda/reset").json()["path"]
    assert edda.get("/api/me").status_code == 401
    assert edda.post("/api/session", json={"name": "Edda", "password": "a long word indeed"}).status_code == 401
    assert edda.get(path, follow_redirects=False).headers["location"] == "/"
    token = {"X-CSRF-Token": edda.get("/api/me").json()["csrf"]}
    assert edda.put("/api/me/password", json={"new": "another long word indeed"}, headers=token).status_code == 204
    assert door(store).get(path, follow_redirects=False).headers["location"] == "/?link=used"
    entered(store, "Edda", "another long word indeed")
    assert owner.post("/api/accounts/Oda/reset").status_code == 422


def test_sessions_are_ended(owner: TestClient, store: Store) -> None:
    """One's own everywhere else, and by an owner somebody's."""
    here, elsewhere = entered(store), entered(store)
    assert here.delete("/api/me/sessions").status_code == 204
    assert [c.get("/api/me").status_code for c in (here, elsewhere, owner)] == [200, 401, 401]
    here.post("/api/accounts", json={"name": "Edda", "password": "a long word indeed"})
    edda = entered(store, "Edda", "a long word indeed")
    assert edda.delete("/api/accounts/Oda/sessions").status_code == 403
    assert here.delete("/api/accounts/Edda/sessions").status_code == 204
    assert edda.get("/api/me").status_code == 401


def test_readers_do_not_list_accounts(owner: TestClient, store: Store) -> None:
    """Only who may let somebody do something sees everybody."""
    edda = client_of(store, "Edda", owner=False)
    owner.put("/api/designs/d/roles", json={"name": "Edda", "role": "publish"})
    assert edda.get("/api/accounts").status_code == 403
    owner.put("/api/designs/d/roles", json={"name": "Edda", "role": "administer"})
    assert edda.get("/api/accounts").status_code == 200


def test_what_ifs_follow_the_design_they_were_branched_off(owner: TestClient, store: Store) -> None:
    """A role taken away is taken away there too, and a what-if of a what-if follows as well."""
    edda = client_of(store, "Edda", owner=False)
    owner.put("/api/designs/d/roles", json={"name": "Edda", "role": "edit"})
    one = edda.post("/api/designs/d/branches", json={"title": "one"}).json()["id"]
    two = edda.post(f"/api/designs/{one}/branches", json={"title": "two"}).json()["id"]
    assert {d["id"] for d in edda.get("/api/designs").json()} == {"d", one, two}
    owner.put("/api/designs/d/roles", json={"name": "Edda", "role": "read"})
    for id_ in (one, two):
        assert edda.post(f"/api/designs/{id_}/draft/undo", headers={"If-Match": '"1"'}).status_code == 403
    owner.put(f"/api/designs/{two}/roles", json={"name": "Edda", "role": None})
    for id_ in ("d", one, two):
        assert edda.get(f"/api/designs/{id_}/draft").status_code == 404
    assert edda.get("/api/designs").json() == []
