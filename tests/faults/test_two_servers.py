"""Many servers, one truth: two of them over one database, edited through both at once while commits are slow, fail and are cut."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from random import Random
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from anabasis.climb import Climb
from anabasis.design.edits import patched
from anabasis.store import Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON, client_of, people_of
from tests.counts import count
from tests.faults.small import SMALL

ROUNDS = count(50, 6)
PATCH_TYPE = "application/json-patch+json"
TROUBLES = {
    "slow": "begin perform pg_sleep(0.15); return null; end",
    "fails": "begin raise exception 'no room' using errcode = '53100'; end",
    "cut": "begin perform pg_terminate_backend(pg_backend_pid()); perform pg_sleep(0.2); return null; end",
}


@contextmanager
def troubled(engine: Engine, kind: str) -> Iterator[None]:
    """Have every commit of an edit meet a trouble until the block ends."""
    body = TROUBLES[kind]
    with engine.begin() as connection:
        connection.execute(text(f"create function trouble() returns trigger language plpgsql as $$ {body} $$"))
        late = "after insert on edit deferrable initially deferred for each row execute function trouble()"
        connection.execute(text(f"create constraint trigger trouble {late}"))
    try:
        yield
    finally:
        with engine.begin() as connection:
            connection.execute(text("drop function trouble() cascade"))


def edit(client: TestClient, random: Random, said: str) -> tuple[str, int] | None:
    """Change something for the version that is seen; return what was said and the version answered."""
    seen = client.get("/api/designs/d/draft").headers["etag"]
    kind = random.choice(("edit", "edit", "edit", "undo", "redo"))
    if kind == "edit":
        patch = [{"op": "add", "path": "/note", "value": said}]
        headers = {"If-Match": seen, "Content-Type": PATCH_TYPE}
        answer = client.patch("/api/designs/d/draft", json=patch, headers=headers)
    else:
        answer = client.post(f"/api/designs/d/draft/{kind}", headers={"If-Match": seen})
    assert answer.status_code in (200, 409, 412, 422, 503), answer.text
    return (said if kind == "edit" else "", answer.json()["version"]) if answer.status_code == 200 else None


def truth(store: Store, begun: Any) -> Any:
    """Return the document that the log tells of; every version stands in it once."""
    tree = begun
    edits = store.edits("d")
    assert [e.version for e in edits] == list(range(2, len(edits) + 2))
    for one in edits:
        assert patched(patched(tree, one.patch), one.inverse) == tree
        tree = patched(tree, one.patch)
    return tree


@pytest.mark.parametrize("kind", TROUBLES)
def test_both_tell_the_same(kind: str) -> None:
    """After every round: what was answered stands in the log, the draft is its replay, and both compute from that draft."""
    random = Random(kind)
    with Cluster.for_a_while() as cluster:
        migrate(connect(cluster.url))
        stores = [Store(connect(cluster.url)) for _ in range(2)]
        stores[0].create("d", SMALL, NOON)
        people_of(stores[0]).add("Oda", "correct horse", True, "a test", NOON)
        clients = [client_of(s, raise_server_exceptions=False) for s in stores]
        answered: dict[int, str] = {}
        for turn in range(ROUNDS):
            with troubled(stores[0].engine, kind), ThreadPoolExecutor(4) as pool:
                asked = [pool.submit(edit, clients[k % 2], random, f"{turn} {k}") for k in range(4)]
                told = [found for f in asked if (found := f.result(60)) is not None]
            assert len({version for _, version in told}) == len(told), "no version was given to two"
            calm = edit(clients[turn % 2], random, f"{turn} calm")
            answered |= {v: said for said, v in [*told, *([calm] if calm else [])] if said}
            tree = truth(stores[0], SMALL)
            stored = {e.version: e.patch[0].get("value") for e in stores[0].edits("d")}
            assert not {v: said for v, said in answered.items() if stored.get(v) != said}, "what was answered is kept"
            drafts = [s.draft("d") for s in stores]
            assert [d.tree for d in drafts] == [tree, tree]
            matrices = [c.get("/api/designs/d/views/matrix").json() for c in clients]
            assert matrices[0] == matrices[1]
            climbs = [c.get("/api/designs/d/views/climb").json()["findings"] for c in clients]
            alone = [f.sentence for f in Climb(drafts[0].design).findings]
            assert [[f["sentence"] for f in found] for found in climbs] == [alone, alone]


def test_a_restore_beneath_both(tmp_path: Path) -> None:
    """The same version of another document: neither answers from what it remembers."""
    with Cluster.for_a_while() as cluster:
        migrate(connect(cluster.url))
        stores = [Store(connect(cluster.url)) for _ in range(2)]
        stores[0].create("d", SMALL, NOON)
        cluster.back_up(tmp_path / "kept")
        for store in stores:
            version = store.draft("d").version
            store.edit("d", version, [{"op": "add", "path": "/note", "value": f"after {version}"}], "Oda", NOON)
        cluster.restore(tmp_path / "kept")
        for k, store in enumerate(stores):
            assert store.draft("d").tree == truth(store, SMALL)
            store.edit("d", k + 1, [{"op": "add", "path": "/note", "value": f"again {k}"}], "Oda", NOON)
        assert [s.draft("d").tree for s in stores] == [truth(stores[0], SMALL)] * 2
