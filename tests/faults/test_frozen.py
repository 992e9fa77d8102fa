"""A database that is frozen: pages are told in seconds, nobody waits for ever, and afterwards it goes on."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from time import monotonic, sleep

import pytest

from anabasis.design import Loaded
from anabasis.errors import StoreUnavailable
from anabasis.store import Listener, Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON
from tests.counts import count

FROZEN_S = count(30, 7)
NAME = [{"op": "replace", "path": "/name", "value": "Kept"}]


def family_of(cluster: Cluster) -> list[int]:
    """Return the processes of a cluster, the first of them first."""
    first = int((cluster.data / "postmaster.pid").read_text().split()[0])
    found = [first]
    for status in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = status.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if fields[1] == str(first):
            found.append(int(status.parent.name))
    return found


@contextmanager
def frozen(cluster: Cluster) -> Iterator[None]:
    """Freeze a cluster until the block ends."""
    processes = family_of(cluster)
    for process in processes:
        os.kill(process, signal.SIGSTOP)
    try:
        yield
    finally:
        for process in reversed(processes):
            os.kill(process, signal.SIGCONT)


def test_frozen_and_thawed(demo: Loaded) -> None:
    """Heard of within some seconds, a question fails rather than hangs, nothing half-done; thawed, it goes on by itself."""
    with Cluster.for_a_while() as cluster:
        store, heard = Store(connect(cluster.url)), list[tuple[float, bool]]()
        migrate(store.engine)
        store.create("d", demo.raw, NOON)
        up = threading.Event()

        def alive(well: bool) -> None:
            heard.append((monotonic(), well))
            (up.set if well else up.clear)()

        listener = Listener(store.engine, lambda notice: None, alive)
        listener.start()
        try:
            assert up.wait(10)
            with frozen(cluster):
                began = monotonic()
                with pytest.raises(StoreUnavailable):
                    store.edit("d", 1, NAME, "Oda", NOON)
                assert monotonic() - began < 10, "a question is answered, though with no"
                assert not up.is_set()
                assert min(t for t, well in heard if not well) - began < 5, "pages are told in seconds"
                while monotonic() - began < FROZEN_S:
                    with pytest.raises(StoreUnavailable):
                        store.draft("d")
                    sleep(0.2)
            assert up.wait(15), "it comes back by itself"
            draft = store.draft("d")
            assert draft.tree["name"] in (demo.raw["name"], "Kept")
            assert store.edit("d", draft.version, [{"op": "add", "path": "/note", "value": "on"}], "Oda", NOON)
        finally:
            listener.stop()
