"""Server and database are killed again and again under load, fifty times with `make faults`: no answered edit is lost, no half edit is left."""

from __future__ import annotations

import http.client
import json
import os
import signal
import subprocess
import sys
import threading
import time
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any

from anabasis.design.edits import patched
from anabasis.store import People, Store, connect, migrate
from ops.cluster import Cluster, free_port
from tests.conftest import NOON, ROOT
from tests.counts import count
from tests.faults.small import SMALL

KILLS = count(50, 10)
WRITERS = 4


@dataclass
class Writer:
    """Edits one design as fast as it is answered, and remembers what was answered."""

    design: str
    port: int
    headers: dict[str, str]
    answered: dict[int, str] = field(default_factory=dict)
    failed: int = 0

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, Any]:
        """Send one request on a connection of its own."""
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        try:
            line.request(method, path, None if body is None else json.dumps(body), self.headers | headers)
            answer = line.getresponse()
            return answer.status, json.loads(answer.read())
        finally:
            line.close()

    def write(self, stop: threading.Event) -> None:
        """Edit until told to stop."""
        version, told = 0, 0
        while not stop.is_set():
            try:
                if not version:
                    status, body = self.ask("GET", f"/api/designs/{self.design}/draft")
                    version = body["version"] if status == 200 else 0
                    continue
                told += 1
                patch = [{"op": "add", "path": "/vlans/0/note", "value": f"edit {told}"}]
                match = {"If-Match": f'"{version}"', "Content-Type": "application/json-patch+json"}
                status, body = self.ask("PATCH", f"/api/designs/{self.design}/draft", patch, **match)
                if status == 200:
                    version = body["version"]
                    self.answered[version] = f"edit {told}"
                else:
                    version, self.failed = 0, self.failed + 1
            except (OSError, http.client.HTTPException, ValueError):
                version, self.failed = 0, self.failed + 1
                time.sleep(0.02)


def _under_load(writers: list[Writer]) -> None:
    """Wait until somebody is answered again, however slow the machine: a kill that nobody notices tries nothing."""
    before, late = sum(len(w.answered) for w in writers), time.monotonic() + 30
    while sum(len(w.answered) for w in writers) < before + 3:
        assert time.monotonic() < late, "nobody is answered any more"
        time.sleep(0.05)


def test_nothing_answered_is_lost() -> None:
    """Kills at random moments, of the server and of the database by turns, while four people edit."""
    random, stop, port = Random(7), threading.Event(), free_port()
    server: subprocess.Popen[str] | None = None
    with Cluster.for_a_while(durable=True) as cluster:
        try:
            url = cluster.url
            engine = connect(url)
            migrate(engine)
            store, people = Store(engine), People(engine)
            for k in range(WRITERS):
                store.create(f"d{k}", SMALL, NOON)
            now = datetime.now(UTC)
            cookie = people.enter(people.link(people.ensure("Oda", now).id, now), now).cookie
            engine.dispose()
            script = [sys.executable, "-m", "tests.faults.killable", url, str(port)]
            server = subprocess.Popen(script, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
            assert server.stdin
            assert server.stdout

            def begin() -> int:
                assert server is not None
                server.stdin.write("\n")  # type: ignore[union-attr]
                server.stdin.flush()  # type: ignore[union-attr]
                return int(server.stdout.readline())  # type: ignore[union-attr]

            life = begin()
            headers = {"Cookie": f"anabasis-{port}={cookie}", "X-CSRF-Token": _token(port, cookie)}
            writers = [Writer(f"d{k}", port, headers) for k in range(WRITERS)]
            threads = [threading.Thread(target=w.write, args=(stop,)) for w in writers]
            for thread in threads:
                thread.start()
            for kill in range(KILLS):
                _under_load(writers)
                time.sleep(random.uniform(0, 0.8))
                if kill % 2:
                    _kill(cluster)
                    cluster.start(same_port=True)
                else:
                    os.kill(life, signal.SIGKILL)
                    life = begin()
            time.sleep(1)
            stop.set()
            for thread in threads:
                thread.join(timeout=20)
            store = Store(connect(cluster.url))
            for writer in writers:
                edits = store.edits(writer.design)
                assert [e.version for e in edits] == list(range(2, len(edits) + 2)), "every version once, none left out"
                stored = {e.version: e.patch[0]["value"] for e in edits}
                assert not {v: said for v, said in writer.answered.items() if stored.get(v) != said}
                tree = SMALL
                for e in edits:
                    assert patched(patched(tree, e.patch), e.inverse) == tree
                    tree = patched(tree, e.patch)
                draft = store.draft(writer.design)
                assert (draft.tree, draft.version) == (tree, len(edits) + 1)
            answered = sum(len(w.answered) for w in writers)
            print(
                f"{KILLS} kills, {answered} edits answered, {sum(w.failed for w in writers)} refused or cut off, none lost"
            )
            assert answered > 20, "there was a load at all"
            os.kill(life, signal.SIGKILL)
        finally:
            stop.set()
            if server is not None:
                server.kill()
                server.wait()


def _token(port: int, cookie: str) -> str:
    for _ in range(100):
        try:
            line = http.client.HTTPConnection("127.0.0.1", port, timeout=5)
            line.request("GET", "/api/me", headers={"Cookie": f"anabasis-{port}={cookie}"})
            return str(json.loads(line.getresponse().read())["csrf"])
        except OSError:
            time.sleep(0.1)
    raise AssertionError("the server did not start")


def _kill(cluster: Cluster) -> None:
    """Kill the database's first process; where nobody collects its remains, its lock file would pass for a living one."""
    lock = cluster.data / "postmaster.pid"
    number = int(lock.read_text().split()[0])
    os.kill(number, signal.SIGKILL)
    status = Path(f"/proc/{number}/stat")
    while status.exists() and status.read_text().rpartition(")")[2].split()[0] != "Z":
        time.sleep(0.01)
    lock.unlink()
