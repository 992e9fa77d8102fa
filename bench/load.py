"""Fifty people on one server for a minute: they read, edit, clash and put their edit on top. `python -m bench.load [PEOPLE] [SECONDS]`.

Loopback only, against a server and a cluster of its own, and it stops by itself.
"""

from __future__ import annotations

import http.client
import json
import socket
import sys
import threading
import time
from collections import Counter, defaultdict
from datetime import UTC, datetime
from multiprocessing import get_context
from pathlib import Path
from random import Random
from statistics import quantiles
from typing import Any

import uvicorn

from anabasis.design import load_file
from anabasis.server import create_app
from anabasis.store import People, Store, connect, migrate
from ops.cluster import Cluster, free_port

ROOT = Path(__file__).resolve().parent.parent
DESIGNS = 5
THINKS_S = (2.0, 8.0)
"""How long a person looks at an answer before they ask the next thing."""
READS = (
    "views/climb",
    "views/matrix",
    "views/grid",
    "views/zones",
    "draft/last-edit",
    "views/pair?source=keepers&target=life-support",
)
EDITS_OF_TEN = 1


class Person(threading.Thread):
    """One person at one design."""

    def __init__(self, number: int, port: int, cookie: str, until: float) -> None:
        super().__init__(name=f"person {number}", daemon=True)
        self.random, self.until, self.number = Random(number), until, number
        self.port, self.path = port, f"/api/designs/d{number % DESIGNS}"
        self.headers = {"Cookie": f"anabasis-{port}={cookie}"}
        self.line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.took: dict[str, list[float]] = defaultdict(list)
        self.answers: Counter[int] = Counter()
        self.faults: list[str] = []

    def ask(self, what: str, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, Any]:
        """Send a request, and keep how long it took."""
        start = time.perf_counter()
        self.line.request(method, path, None if body is None else json.dumps(body), self.headers | headers)
        answer = self.line.getresponse()
        text = answer.read()
        self.took[what].append(time.perf_counter() - start)
        self.answers[answer.status] += 1
        if answer.status >= 400 and answer.status != 412:
            self.faults.append(f"{answer.status} {method} {path}: {text[:120]!r}")
        return answer.status, json.loads(text)

    def run(self) -> None:
        """Read and edit until time is up."""
        try:
            self.headers["X-CSRF-Token"] = self.ask("read", "GET", "/api/me")[1]["csrf"]
            while time.perf_counter() < self.until:
                time.sleep(self.random.uniform(*THINKS_S))
                if self.random.randrange(10) < EDITS_OF_TEN:
                    self.edit()
                else:
                    self.ask("read", "GET", f"{self.path}/{self.random.choice(READS)}")
        except (OSError, http.client.HTTPException, ValueError, KeyError) as error:
            self.faults.append(repr(error))

    def edit(self) -> None:
        """Change something of one's own; where somebody was faster, put it on top."""
        version = self.ask("read", "GET", f"{self.path}/draft")[1]["version"]
        words = f"seen by {self.number} at {time.time():.0f}"
        patch: Any = [{"op": "add", "path": f"/vlans/{self.number % 12}/note", "value": words}]
        if self.random.randrange(4) == 0:
            patch = [{"op": "add", "path": "/devices/4/rules/2/enabled", "value": self.random.random() < 0.5}]
        for _ in range(10):
            kind = {"If-Match": f'"{version}"', "Content-Type": "application/json-patch+json"}
            status, body = self.ask("edit", "PATCH", f"{self.path}/draft", patch, **kind)
            if status != 412 or not body["clash"] or not body["clash"]["on_top"]:
                return
            version, patch = body["clash"]["version"], body["clash"]["on_top"]


def serve(url: str, port: int) -> None:
    """Serve in a process of its own, so that those who ask take no time from it but the machine's."""
    listener = socket.socket()
    listener.bind(("127.0.0.1", port))
    uvicorn.Server(uvicorn.Config(create_app(Store(connect(url))), log_level="error", timeout_keep_alive=75)).run(
        sockets=[listener]
    )


def main(people: int = 50, seconds: float = 60) -> None:
    """Print how long answers took, and what went wrong."""
    with Cluster.for_a_while(durable=True) as cluster:
        engine = connect(cluster.url)
        migrate(engine)
        store, accounts, now = Store(engine), People(engine), datetime.now(UTC)
        raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
        for k in range(DESIGNS):
            store.create(f"d{k}", raw, now)
        owners = [accounts.ensure(f"person {n}", now) for n in range(people)]
        cookies = [accounts.enter(accounts.link(p.id, now), now).cookie for p in owners]
        port = free_port()
        server = get_context("spawn").Process(target=serve, args=(cluster.url, port), daemon=True)
        server.start()
        try:
            while socket.socket().connect_ex(("127.0.0.1", port)):
                time.sleep(0.1)
            until = time.perf_counter() + seconds
            crowd = [Person(n, port, c, until) for n, c in enumerate(cookies)]
            for person in crowd:
                person.start()
            for person in crowd:
                person.join(timeout=seconds + 120)
        finally:
            server.kill()
        for what in ("read", "edit"):
            took = [t for p in crowd for t in p.took[what]]
            cuts = quantiles(took, n=100, method="inclusive")
            print(
                f"{what}: {len(took)} answers, median {cuts[49] * 1000:.0f} ms, 99th percentile {cuts[98] * 1000:.0f} ms, slowest {max(took) * 1000:.0f} ms"
            )
        answers = sum((p.answers for p in crowd), Counter())
        stored = sum(len(store.edits(f"d{k}")) for k in range(DESIGNS))
        print(
            f"{people} people, {seconds:.0f} s: {dict(answers)}; {stored} edits stored, {answers[412]} met another edit first"
        )
        faults = [f for p in crowd for f in p.faults]
        print(f"errors: {len(faults)}", *faults[:5], sep="\n")
        if faults:
            raise SystemExit(1)


if __name__ == "__main__":
    main(*(int(a) for a in sys.argv[1:3]))
