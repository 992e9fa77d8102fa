"""The store, on a real database: whole edits or none, undo and redo as edits, one winner of two."""

from __future__ import annotations

import json
import threading
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine, inspect, text

from anabasis.design import Loaded
from anabasis.errors import AnabasisError, InputRefused, NoSuchThing, NothingToUndo, Outdated, StoreUnavailable
from anabasis.store import Branch, History, Store, connect, migrate
from anabasis.store.designs import KEPT_REMOVED
from anabasis.store.engine import MIGRATIONS
from anabasis.store.tables import Base
from tests.conftest import NOON

OFF = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": False}]


def renamed(name: str) -> list[dict[str, object]]:
    """Return an edit of the design's name."""
    return [{"op": "replace", "path": "/name", "value": name}]


def test_a_document_comes_back_as_written(store: Store, demo: Loaded) -> None:
    """To the order of keys."""
    store.create("d", demo.raw, NOON)
    assert json.dumps(store.draft("d").tree) == json.dumps(demo.raw)
    assert [(s.id, s.name, s.version) for s in store.designs()] == [("d", "Tidewrack Aquarium", 1)]


def test_an_invalid_document_is_not_stored(store: Store) -> None:
    """Nothing is half-done."""
    with pytest.raises(InputRefused):
        store.create("d", {"anabasis": 1}, NOON)
    assert store.designs() == []


def test_an_edit_is_kept_with_its_inverse(store: Store, demo: Loaded) -> None:
    """Who, when, what, and the way back."""
    store.create("d", demo.raw, NOON)
    draft = store.edit("d", 1, OFF, "Oda", NOON)
    assert (draft.version, draft.can_undo, draft.can_redo) == (2, True, False)
    record = store.edits("d")[0]
    assert (record.author, record.kind, record.at, record.patch) == ("Oda", "edit", NOON, OFF)
    assert record.inverse == [{"op": "remove", "path": "/devices/4/rules/2/enabled"}]


def test_an_edit_that_is_refused_changes_nothing(store: Store, demo: Loaded) -> None:
    """Neither the draft nor the list of edits."""
    store.create("d", demo.raw, NOON)
    with pytest.raises(InputRefused):
        store.edit("d", 1, [{"op": "remove", "path": "/devices/4/zones/2"}], "Oda", NOON)
    assert store.draft("d").version == 1
    assert store.edits("d") == []


def test_undo_and_redo_are_edits(store: Store, demo: Loaded) -> None:
    """Back and forth over two edits; a new edit ends what could be done again."""
    store.create("d", demo.raw, NOON)
    store.edit("d", 1, renamed("A"), "Oda", NOON)
    store.edit("d", 2, renamed("B"), "Oda", NOON)
    names = [store.undo("d", 3, "Oda", NOON).tree["name"], store.undo("d", 4, "Oda", NOON).tree["name"]]
    assert names == ["A", "Tidewrack Aquarium"]
    assert store.redo("d", 5, "Oda", NOON).tree["name"] == "A"
    assert store.undo("d", 6, "Oda", NOON).tree["name"] == "Tidewrack Aquarium"
    assert store.redo("d", 7, "Oda", NOON).tree["name"] == "A"
    assert store.redo("d", 8, "Oda", NOON).tree["name"] == "B"
    assert [r.kind for r in store.edits("d")] == ["edit", "edit", "undo", "undo", "redo", "undo", "redo", "redo"]
    store.undo("d", 9, "Oda", NOON)
    assert not store.edit("d", 10, renamed("C"), "Oda", NOON).can_redo
    with pytest.raises(NothingToUndo, match="no edit to redo"):
        store.redo("d", 11, "Oda", NOON)


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.sampled_from(("edit", "undo", "redo")), max_size=12))
def test_undo_and_redo_behave_like_two_stacks(store: Store, demo: Loaded, steps: list[str]) -> None:
    """Any sequence leads where a plain model of two stacks leads, and says whose edit an undo takes back."""
    identity = f"d{datetime.now(UTC).timestamp()}"[:32]
    draft = store.create(identity, demo.raw, NOON)
    done: list[tuple[str, str | None]] = [(demo.design.name, None)]
    undone: list[tuple[str, str | None]] = []
    for k, step in enumerate(steps):
        if step == "edit":
            author = ("Oda", "Edda", "Jorun")[k % 3]
            done, undone = [*done, (f"n{k}", author)], []
            draft = store.edit(identity, draft.version, renamed(f"n{k}"), author, NOON)
        elif step == "undo" and len(done) > 1:
            undone.append(done.pop())
            draft = store.undo(identity, draft.version, "Oda", NOON)
        elif step == "redo" and undone:
            done.append((undone.pop()[0], "Oda"))
            draft = store.redo(identity, draft.version, "Oda", NOON)
        for found in (draft, store.draft(identity)):
            assert (found.tree["name"], found.undo_of) == done[-1]
            assert (found.can_undo, found.can_redo) == (len(done) > 1, bool(undone))


def test_of_two_edits_one_wins_and_the_other_is_told(store: Store, demo: Loaded) -> None:
    """Eight people edit the same version at once."""
    store.create("d", demo.raw, NOON)
    outcomes: list[AnabasisError | int] = []

    def attempt(k: int) -> None:
        try:
            outcomes.append(store.edit("d", 1, renamed(f"n{k}"), f"p{k}", NOON).version)
        except Outdated as error:
            outcomes.append(error)

    threads = [threading.Thread(target=attempt, args=(k,)) for k in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    losers = [o for o in outcomes if isinstance(o, Outdated)]
    assert [o for o in outcomes if isinstance(o, int)] == [2]
    assert len(losers) == 7
    assert all(e.changes[0]["patch"] and e.now == 2 for e in losers)
    assert store.draft("d").version == 2


def test_before_the_last_edit(store: Store, demo: Loaded) -> None:
    """The state one edit ago can be had; without an edit it is the present one."""
    store.create("d", demo.raw, NOON)
    before, now = store.before_last("d")
    assert before is now
    store.edit("d", 1, renamed("A"), "Oda", NOON)
    before, now = store.before_last("d")
    assert (before.tree["name"], now.tree["name"]) == ("Tidewrack Aquarium", "A")


def test_unknown_designs(store: Store) -> None:
    """Every way of asking says so."""
    for ask in (
        lambda: store.draft("x"),
        lambda: store.edits("x"),
        lambda: store.edit("x", 1, OFF, "Oda", NOON),
        lambda: store.undo("x", 1, "Oda", NOON),
        lambda: store.remove("x", NOON),
    ):
        with pytest.raises(NoSuchThing, match="no design 'x'"):
            ask()


def test_removal_takes_the_edits_along(store: Store, demo: Loaded, engine: Engine) -> None:
    """Nothing is left behind of what is dropped, or of what was removed longer ago than it is kept."""
    for name in "de":
        store.create(name, demo.raw, NOON)
        store.edit(name, 1, OFF, "Oda", NOON)
    store.drop("d")
    store.remove("e", NOON)
    store.create("f", demo.raw, NOON)
    store.remove("f", NOON + KEPT_REMOVED + timedelta(seconds=1))
    with engine.connect() as connection:
        assert connection.execute(text("select count(*) from edit")).scalar() == 0
    assert [s.id for s in store.designs(removed=True)] == ["f"]


def test_what_was_removed_can_be_brought_back(store: Store, demo: Loaded) -> None:
    """With its edits and its what-ifs; until then nobody can read or edit it."""
    store.create("d", demo.raw, NOON)
    store.create("w", demo.raw, NOON, Branch("d", "more ports", "draft 1"))
    draft = store.edit("d", 1, OFF, "Oda", NOON)
    store.remove("d", NOON)
    assert store.designs() == []
    assert not store.untouched
    for ask in (lambda: store.draft("d"), lambda: store.draft("w"), lambda: store.edit("d", 2, OFF, "Oda", NOON)):
        with pytest.raises(NoSuchThing):
            ask()
    store.bring_back("d")
    assert store.draft("d").tree == draft.tree
    assert [(s.id, s.last_author) for s in store.designs()] == [("d", "Oda"), ("w", None)]
    with pytest.raises(NoSuchThing, match="was removed"):
        store.bring_back("d")


def test_migrations_make_what_the_tables_say(engine: Engine) -> None:
    """Table by table, column by column, nullable or not; and migrating again changes nothing."""
    migrate(engine)
    found = inspect(engine)
    for table in Base.metadata.sorted_tables:
        columns = {c["name"]: c["nullable"] for c in found.get_columns(table.name)}
        assert columns == {c.name: c.nullable for c in table.columns}


def test_a_database_that_does_not_answer() -> None:
    """Is one clear error, not a trace."""
    lost = Store(connect("postgresql+psycopg://nobody:x@127.0.0.1:1/none"))
    with pytest.raises(StoreUnavailable, match="does not answer"):
        lost.designs()


EARLIER = {
    "0001": (
        "insert into design (id, name, created_at, version, document) values ('d', 'Old', now(), 2, :now)",
        "insert into edit (design_id, version, kind, patch, inverse, author, at) values ('d', 2, 'edit', :patch, :back, 'Oda', now())",
    ),
}
EARLIER["0008"] = EARLIER["0007"] = EARLIER["0006"] = EARLIER["0005"] = EARLIER["0004"] = EARLIER["0003"] = EARLIER[
    "0002"
] = EARLIER["0001"]
"""How a design with one edit was stored under each earlier schema."""


@pytest.mark.parametrize("revision", sorted(EARLIER))
def test_designs_of_an_earlier_schema_are_kept(engine: Engine, demo: Loaded, revision: str) -> None:
    """Brought up to date with what is in it: the draft reads, the edit is undone, and it can be published."""
    with engine.begin() as connection:
        connection.execute(text(f"drop schema if exists was_{revision} cascade"))
        connection.execute(text(f"create schema was_{revision}"))
    old = connect(engine.url.render_as_string(hide_password=False), schema=f"was_{revision}")
    try:
        migrate(old, revision)
        back = [{"op": "replace", "path": "/name", "value": demo.raw["name"]}]
        values = {
            "now": json.dumps(demo.raw | {"name": "Old"}),
            "patch": json.dumps(renamed("Old")),
            "back": json.dumps(back),
        }
        with old.begin() as connection:
            for statement in EARLIER[revision]:
                used = {k: v for k, v in values.items() if f":{k}" in statement}
                connection.execute(text(statement), used)
        migrate(old)
        store = Store(old)
        assert store.draft("d").tree["name"] == "Old"
        assert store.undo("d", 2, "Oda", NOON).tree == demo.raw
        assert History(old).publish("d", 3, Store(old).draft("d").stamp, "kept", [], None, "Oda", NOON).number == 1
    finally:
        old.dispose()


def test_no_schema_is_left_out() -> None:
    """Every migration but the newest has its data above."""
    names = sorted(p.name.split("_")[0] for p in (MIGRATIONS / "versions").glob("0*.py"))
    assert names[:-1] == sorted(EARLIER)
