"""What pages are told while they are open: edits of others, who is where, and whether the database can be heard."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from queue import Empty, Queue
from time import monotonic
from typing import Any

import pytest
import requests

from anabasis.design import Loaded
from anabasis.store import People, Store, connect, migrate
from ops.cluster import Cluster
from ops.serving import enter, serving
from tests.conftest import NOON

NOTE = [{"op": "replace", "path": "/note", "value": "another"}]
PATIENCE_S = 15


class Page:
    """One signed-in page that listens."""

    def __init__(self, store: Store, address: str, name: str) -> None:
        self.address, self.tab = address, name
        entered = requests.get(enter(store, address, name), allow_redirects=False, timeout=60)
        self.headers = {"Cookie": entered.headers["Set-Cookie"].split(";")[0]}
        me = requests.get(f"{address}/api/me", headers=self.headers, timeout=60).json()
        self.headers["X-CSRF-Token"] = me["csrf"]
        self.heard: Queue[dict[str, Any]] = Queue()

    def ask(self, method: str, path: str, **options: Any) -> requests.Response:
        """Send a request about the design."""
        headers = self.headers | options.pop("headers", {})
        return requests.request(method, f"{self.address}/api/designs/d{path}", headers=headers, timeout=60, **options)

    @contextmanager
    def listening(self, *designs: str) -> Iterator[None]:
        """Hear what happens to designs, else to `d`, until the block ends."""
        line = requests.get(
            f"{self.address}/api/events",
            params={"design": designs or ("d",)},
            headers=self.headers,
            stream=True,
            timeout=60,
        )
        assert line.headers["content-type"].startswith("text/event-stream")

        def hear() -> None:
            try:
                for text in line.iter_lines(decode_unicode=True, chunk_size=1):
                    if text.startswith("data: "):
                        self.heard.put(json.loads(text[6:]))
                self.heard.put({"kind": "over"})
            except (requests.RequestException, AttributeError):
                return  # the page was closed

        threading.Thread(target=hear, daemon=True).start()
        try:
            self.until("here")
            yield
        finally:
            with suppress(RuntimeError):  # the server has ended it already
                line.raw.shutdown()  # wakes the thread that reads

    def until(self, kind: str, **values: Any) -> dict[str, Any]:
        """Return the next event of a kind with some values."""
        while True:
            found = self.heard.get(timeout=PATIENCE_S)
            if found["kind"] == kind and all(found.get(k) == v for k, v in values.items()):
                return found


def test_edits_of_others_are_told(store: Store, demo: Loaded) -> None:
    """With who made them; publishing likewise; an edit that is refused is not told."""
    store.create("d", demo.raw, NOON)
    with serving(store) as address:
        oda, edda = Page(store, address, "Oda"), Page(store, address, "Edda")
        kind = {"Content-Type": "application/json-patch+json", "If-Match": '"1"'}
        with oda.listening():
            bad = edda.ask("PATCH", "/draft", json=[{"op": "remove", "path": "/name"}], headers=kind)
            assert bad.status_code == 422
            assert edda.ask("PATCH", "/draft", json=NOTE, headers=kind).status_code == 200
            told = oda.until("edit")
            assert (told["who"], told["version"]) == ("Edda", 2)
            assert edda.ask("POST", "/revisions", json={"reason": "x"}, headers={"If-Match": '"2"'}).status_code == 201
            assert oda.until("published")["number"] == 1


def test_who_is_where(store: Store, demo: Loaded) -> None:
    """Seen when they come, move and go."""
    store.create("d", demo.raw, NOON)
    with serving(store) as address:
        oda, edda = Page(store, address, "Oda"), Page(store, address, "Edda")
        with oda.listening():
            with edda.listening():
                edda.ask("POST", "/here", json={"tab": "Edda", "stage": "zones", "at": "/devices/4"})
                (page,) = oda.until("here")["pages"]
                assert (page["who"], page["stage"], page["at"]) == ("Edda", "zones", "/devices/4")
            edda.ask("POST", "/here", json={"tab": "Edda", "stage": "", "gone": True})
            assert oda.until("here")["pages"] == []


def test_one_line_tells_of_many_designs(store: Store, demo: Loaded) -> None:
    """Of those that one may read; a right that ends takes its design out, and the last one the line."""
    for name in ("d", "e", "f"):
        store.create(name, demo.raw, NOON)
    people = People(store.engine)
    with serving(store) as address:
        edda, _ = Page(store, address, "Edda"), Page(store, address, "Oda")
        people.set_owner("Edda", False, "Oda", NOON)
        for name in ("d", "e"):
            people.set_role(name, "Edda", "read", "Oda", NOON)
        with edda.listening("d", "e", "f", "none"):
            edda.until("here", design="e")
            for name in ("f", "e", "d"):
                store.edit(name, 1, NOTE, "Oda", NOON)
            assert [edda.until("edit")["design"] for _ in "ed"] == ["e", "d"]
            people.set_role("d", "Edda", None, "Oda", NOON)
            store.edit("d", 2, [{"op": "remove", "path": "/note"}], "Oda", NOON)
            store.edit("e", 2, [{"op": "remove", "path": "/note"}], "Oda", NOON)
            assert edda.until("edit")["design"] == "e"
            people.set_role("e", "Edda", None, "Oda", NOON)
            edda.until("over")
        for wanted in ({"design": "f"}, {"design": "none"}):
            told = requests.get(f"{address}/api/events", params=wanted, headers=edda.headers, timeout=60)
            assert told.status_code == 404
        assert requests.get(f"{address}/api/events", headers=edda.headers, timeout=60).status_code == 422


def test_the_database_goes_and_comes(demo: Loaded) -> None:
    """Every open page is told, and hears edits again afterwards."""
    with Cluster.for_a_while() as cluster:
        store = Store(connect(cluster.url))
        migrate(store.engine)
        store.create("d", demo.raw, NOON)
        with serving(store) as address:
            oda = Page(store, address, "Oda")
            with oda.listening():
                cluster.stop()
                oda.until("store", up=False)
                assert oda.ask("GET", "/draft").status_code == 503
                cluster.start(same_port=True)
                oda.until("store", up=True)
                store.edit("d", 1, NOTE, "Edda", NOON)
                assert oda.until("edit")["who"] == "Edda"


@pytest.mark.parametrize("ended", ["role", "shut out", "signed out", "removed", "another session"])
def test_a_line_ends_with_the_right_to_it(store: Store, demo: Loaded, ended: str) -> None:
    """At once, well before the line is looked after by itself; only that person's, and only where it is over."""
    store.create("d", demo.raw, NOON)
    with serving(store) as address:
        edda = Page(store, address, "Edda")
        owner = Page(store, address, "Oda")
        people = People(store.engine)
        people.set_owner("Edda", False, "Oda", NOON)
        people.set_role("d", "Edda", "read", "Oda", NOON)
        elsewhere = requests.get(enter(store, address, "Edda"), allow_redirects=False, timeout=60)
        with edda.listening(), owner.listening():
            began = monotonic()
            if ended == "role":
                people.set_role("d", "Edda", None, "Oda", NOON)
            elif ended == "shut out":
                people.switch("Edda", True, "Oda", NOON)
            elif ended == "removed":
                people.remove("Edda", "Oda", NOON)
            elif ended == "signed out":
                people.sign_out(edda.headers["Cookie"].partition("=")[2])
            else:
                people.sign_out(elsewhere.headers["Set-Cookie"].split(";")[0].partition("=")[2])
                with pytest.raises(Empty):
                    edda.heard.get(timeout=1.5)
                return
            edda.until("over")
            assert monotonic() - began < 3
            owner.until("here")
            with pytest.raises(Empty):
                owner.heard.get(timeout=1)
