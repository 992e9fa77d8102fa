"""The database goes away: nothing is half-done, the error is clear, and work goes on when it is back."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import timedelta
from hashlib import sha256
from pathlib import Path

import pytest
from sqlalchemy import Engine, text

from anabasis.campaign import cases_of
from anabasis.design import Loaded
from anabasis.errors import NotLetIn, StoreUnavailable
from anabasis.store import History, Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON, client_of, people_of

OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]


@contextmanager
def kept_apart(demo: Loaded) -> Iterator[tuple[Cluster, Store]]:
    """A cluster of its own, which a test may stop, with the demo in it."""
    with Cluster.for_a_while() as cluster:
        store = Store(connect(cluster.url))
        migrate(store.engine)
        store.create("d", demo.raw, NOON)
        yield cluster, store


def test_a_cluster_stops_and_comes_back(demo: Loaded) -> None:
    """Edits before are kept, edits during are refused whole, edits after go on where one was."""
    with kept_apart(demo) as (cluster, store):
        store.edit("d", 1, OFF, "Oda", NOON)
        client = client_of(store, raise_server_exceptions=False)
        cluster.stop()
        with pytest.raises(StoreUnavailable):
            store.draft("d")
        answer = client.post("/api/designs/d/draft/undo", headers={"If-Match": '"2"'})
        assert (answer.status_code, answer.json()["title"]) == (503, "The store does not answer")
        port = cluster.port_file.read_text()
        cluster.start()
        if cluster.port_file.read_text() != port:  # another program took the port meanwhile
            store.engine.dispose()
            store = Store(connect(cluster.url))
        assert store.draft("d").version == 2
        assert store.undo("d", 2, "Oda", NOON).version == 3


def test_marks_of_a_sheet_outlive_the_database(demo: Loaded) -> None:
    """Ticked before, it is kept; ticked while nothing answers, it is refused and sent again; two who mark at once keep both, the later at one line."""
    with kept_apart(demo) as (cluster, store):
        client = client_of(store, raise_server_exceptions=False)
        assert client.post("/api/designs/d/sheets", json={"kind": "build"}).status_code == 201

        def mark(line: str, note: str, minute: int) -> int:
            at = f"2026-03-02T10:{minute:02}:00+00:00"
            body = [{"line": line, "value": "done", "note": note, "at": at}]
            return int(client.post("/api/designs/d/sheets/1/marks", json=body).status_code)

        ones = [line["id"] for line in client.get("/api/designs/d/sheets/1").json()["lines"][:2]]
        assert mark(ones[0], "before", 0) == 200
        port = cluster.port_file.read_text()
        cluster.stop()
        assert mark(ones[1], "while", 1) == 503
        cluster.start()
        if cluster.port_file.read_text() != port:
            pytest.skip("another program took the port meanwhile")
        held = client.get("/api/designs/d/sheets/1").json()["marks"]
        assert {k: m["note"] for k, m in held.items()} == {ones[0]: "before"}
        assert mark(ones[1], "again", 1) == 200
        with ThreadPoolExecutor(2) as tabs:
            told = list(tabs.map(lambda k: mark(ones[k % 2], f"tab {k}", 2 + k), range(8)))
        assert told == [200] * 8
        held = client.get("/api/designs/d/sheets/1").json()["marks"]
        assert {k: m["note"] for k, m in held.items()} == {ones[0]: "tab 6", ones[1]: "tab 7"}


@pytest.mark.slow
def test_a_campaign_outlives_the_database(demo: Loaded) -> None:
    """Away for some seconds while cases are judged: what came meanwhile is kept when it is back, no case is missing and none is there twice."""
    with kept_apart(demo) as (cluster, store):
        client = client_of(store, raise_server_exceptions=False)
        begun = client.post("/api/campaigns", json={"about": [{"design": "d"}], "faults": 0}).json()
        where = f"/api/campaigns/{begun['id']}"
        deadline = time.monotonic() + 60
        while client.get(where).json()["head"]["done"] == 0:
            assert time.monotonic() < deadline
            time.sleep(0.1)
        port = cluster.port_file.read_text()
        cluster.stop()
        time.sleep(4)
        cluster.start()
        if cluster.port_file.read_text() != port:
            pytest.skip("another program took the port meanwhile")
        deadline = time.monotonic() + 120
        while (answer := client.get(where)).status_code == 503 or answer.json()["head"]["state"] == "running":
            assert time.monotonic() < deadline
            time.sleep(0.3)
        found = answer.json()
        cases = len(list(cases_of("d", demo.raw, faults=0)))
        assert (found["head"]["state"], found["head"]["done"], found["head"]["total"]) == ("ended", cases, cases)
        assert found["judged"] == cases


def test_a_full_disk_and_a_slow_database(engine: Engine, store: Store, demo: Loaded) -> None:
    """Edits are refused whole and say why; reading goes on; afterwards it goes on where one was."""
    store.create("d", demo.raw, NOON)
    hasty = Store(connect(engine.url.render_as_string(hide_password=False), patience_ms=400))
    client = client_of(hasty, raise_server_exceptions=False)
    full = "create function full_disk() returns trigger language plpgsql as $$ begin raise exception 'could not extend file' using errcode = '53100'; end $$"
    with engine.begin() as connection:
        connection.execute(text(full))
        connection.execute(
            text("create trigger full_disk before insert on edit for each row execute function full_disk()")
        )
    try:
        seen = {"If-Match": '"1"', "Content-Type": "application/json-patch+json"}
        answer = client.patch("/api/designs/d/draft", json=OFF, headers=seen)
        assert (answer.status_code, "no room left" in answer.json()["detail"]) == (503, True)
        assert client.get("/api/designs/d/draft").json()["version"] == 1
    finally:
        with engine.begin() as connection:
            connection.execute(text("drop function full_disk() cascade"))
    with engine.connect() as other:
        other.execute(text("select * from design for update"))
        answer = client.patch("/api/designs/d/draft", json=OFF, headers=seen)
        assert (answer.status_code, "takes too long" in answer.json()["detail"]) == (503, True)
        assert client.get("/api/designs/d/draft").json()["version"] == 1
        other.rollback()
    assert client.patch("/api/designs/d/draft", json=OFF, headers=seen).json()["version"] == 2


def _fails_at_commit(engine: Engine, on: bool) -> None:
    """Let every edit fail at the very end, when it is to be kept, or no longer."""
    with engine.begin() as connection:
        if not on:
            connection.execute(text("drop function no_room() cascade"))
            return
        body = "begin raise exception 'no room' using errcode = '53100'; end"
        connection.execute(text(f"create function no_room() returns trigger language plpgsql as $$ {body} $$"))
        late = "after insert on edit deferrable initially deferred for each row execute function no_room()"
        connection.execute(text(f"create constraint trigger no_room {late}"))


def test_an_edit_that_fails_at_commit_is_forgotten(engine: Engine, store: Store, demo: Loaded) -> None:
    """Nobody ever sees it, and it overwrites nothing that another server kept meanwhile."""
    store.create("d", demo.raw, NOON)
    other = Store(engine)
    _fails_at_commit(engine, True)
    try:
        with pytest.raises(StoreUnavailable):
            store.edit("d", 1, OFF, "Oda", NOON)
        with pytest.raises(StoreUnavailable):
            store.undo("d", store.edit("d", 1, OFF, "Oda", NOON).version, "Oda", NOON)
    finally:
        _fails_at_commit(engine, False)
    assert store.draft("d").tree == demo.raw
    other.edit("d", 1, [{"op": "replace", "path": "/name", "value": "Kept"}], "Jorun", NOON)
    assert store.draft("d").tree["name"] == "Kept"
    both = store.edit("d", 2, OFF, "Oda", NOON)
    assert both.tree["name"] == "Kept"
    assert other.draft("d").tree == both.tree


def test_a_restore_under_a_running_server_is_seen(demo: Loaded, tmp_path: Path) -> None:
    """The same version number of another document: what the matrix and publishing are judged on is the document restored."""
    file = tmp_path / "kept.backup"
    with kept_apart(demo) as (cluster, store):
        client = client_of(store)
        cluster.back_up(file)
        ask = {"service": "ssh"}
        sound = client.get("/api/designs/d/views/matrix", params=ask).text
        open_ = {"name": "open", "from": ["any"], "to": ["any"], "action": "permit"}
        store.edit("d", 1, [{"op": "add", "path": "/devices/4/rules/0", "value": open_}], "Oda", NOON)
        assert client.get("/api/designs/d/views/matrix", params=ask).text != sound
        cluster.restore(file)
        assert client.get("/api/designs/d/views/matrix", params=ask).status_code == 401  # a backup opens no door
        people = people_of(store)
        owner = next(p for p in people.all() if p.name == "Oda")
        assert client.get(f"/enter/{people.link(owner.id, NOON)}", follow_redirects=False).status_code == 303
        store.edit("d", 1, [{"op": "add", "path": "/note", "value": "restored"}], "Oda", NOON)
        assert client.get("/api/designs/d/views/matrix", params=ask).text == sound


def test_a_backup_that_fails_leaves_the_one_before(demo: Loaded, tmp_path: Path) -> None:
    """What is written takes its name last; nobody but its owner reads it."""
    file = tmp_path / "kept.backup"
    with kept_apart(demo) as (cluster, _):
        cluster.back_up(file)
        good = file.read_bytes()
        assert file.stat().st_mode & 0o777 == 0o600
        cluster.stop()
        with pytest.raises(SystemExit, match="not written"):
            cluster.back_up(file)
        assert file.read_bytes() == good
        assert [p.name for p in tmp_path.iterdir()] == [file.name]
        with pytest.raises(SystemExit, match="not written"):
            cluster.back_up(tmp_path / "nowhere" / "kept.backup")


def test_backup_and_restore(demo: Loaded, tmp_path: Path) -> None:
    """One command each: what was stored when it was written is there again, whatever happened since, in this cluster or a new one."""
    file = tmp_path / "kept.backup"
    with Cluster.for_a_while() as one, Cluster.for_a_while() as two:
        store = Store(connect(one.url))
        migrate(store.engine)
        store.create("d", demo.raw, NOON)
        store.edit("d", 1, OFF, "Oda", NOON)
        History(store.engine).publish("d", 2, store.draft("d").stamp, "as built", [], None, "Oda", NOON)
        one.back_up(file)
        store.edit("d", 2, [{"op": "replace", "path": "/name", "value": "Later"}], "Oda", NOON)
        for cluster in (one, two):
            cluster.restore(file)
            again = Store(connect(cluster.url))
            migrate(again.engine)
            assert (again.draft("d").version, again.draft("d").tree["name"]) == (2, demo.raw["name"])
            assert [r.reason for r in History(again.engine).revisions("d")] == ["as built"]
            assert again.undo("d", 2, "Oda", NOON).tree == demo.raw
        with pytest.raises(SystemExit, match="not a backup"):
            one.restore(tmp_path / "nothing")
        assert Store(connect(one.url)).draft("d").version == 3, "a restore that fails changes nothing"


def test_a_cluster_that_runs_is_used_again(demo: Loaded) -> None:
    """Starting twice starts once; a second pair of hands on the same folder sees the same designs."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-fault-"))
    home.chmod(0o755)
    first, second = Cluster(home, durable=False), Cluster(home, durable=False)
    try:
        first.start()
        migrate(connect(first.url))
        Store(connect(first.url)).create("d", demo.raw, NOON)
        second.start()
        assert second.url == first.url
        assert [s.id for s in Store(connect(second.url)).designs()] == ["d"]
    finally:
        first.remove()
    assert not home.exists()


@pytest.mark.parametrize("revision", ["0001", "0002", "0003", "0004", "0005", "0006", "0007", "0008"])
def test_a_backup_of_an_earlier_schema_comes_back(demo: Loaded, tmp_path: Path, revision: str) -> None:
    """Restored into a store of today, brought to today's tables, with its designs; links that stood in it open nothing."""
    file = tmp_path / "old.backup"
    with Cluster.for_a_while() as cluster:
        engine = connect(cluster.url)
        migrate(engine, revision)
        now = {"at": NOON, "document": json.dumps(demo.raw)}
        with engine.begin() as connection:
            named = "id, name, created_at, version, document"
            connection.execute(text(f"insert into design ({named}) values ('d', 'x', :at, 7, :document)"), now)
            if revision >= "0002":
                connection.execute(text("insert into account (name, owner, disabled, created_at) values ('Oda', true, false, :at)"), now)  # fmt: skip
                link = "select :token, id, :later from account"
                late = {"token": sha256(b"old").hexdigest(), "later": NOON + timedelta(hours=1)}
                connection.execute(text(f"insert into link (token, account_id, expires_at) {link}"), late)
        everything = cluster._tool("pg_dump", "--format=custom", "--schema=public", stdout=file)
        assert everything.returncode == 0, everything.stderr
        migrate(engine)
        store, people = Store(engine), people_of(Store(engine))
        store.create("later", demo.raw, NOON)
        people.ensure("Later", NOON)
        cluster.restore(file)
        migrate(engine)
        assert [s.id for s in store.designs()] == ["d"]
        assert store.draft("d").version == 7
        with pytest.raises(NotLetIn):
            people.enter("old", NOON)
        assert store.edit("d", 7, OFF, "Oda", NOON).version == 8


def test_a_file_that_is_no_backup_changes_nothing(demo: Loaded, tmp_path: Path) -> None:
    """Cut off, or something else: refused whole."""
    with kept_apart(demo) as (cluster, store):
        cluster.back_up(tmp_path / "good")
        whole = (tmp_path / "good").read_bytes()
        (tmp_path / "cut").write_bytes(whole[: len(whole) // 2])
        (tmp_path / "other").write_text("name: x")
        for name in ("cut", "other"):
            with pytest.raises(SystemExit):
                cluster.restore(tmp_path / name)
        assert store.draft("d").tree == demo.raw
