"""Fifty people on one server, or on several, for a minute: they read, edit, clash and put their edit on top. `python -m bench.load --help`.

Loopback only, against servers and a cluster of its own, and it stops by itself.
"""

from __future__ import annotations

import http.client
import json
import socket
import threading
import time
from collections import Counter, defaultdict
from datetime import UTC, datetime
from multiprocessing import get_context
from pathlib import Path
from random import Random
from statistics import quantiles
from typing import Any

import typer
import uvicorn

from anabasis.design import load_file
from anabasis.server import create_app
from anabasis.store import People, Store, connect, migrate
from bench.generated import generated_site
from bench.reach import SIZES
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
PATIENCE_S = 600.0


class Person(threading.Thread):
    """One person at one design."""

    def __init__(self, number: int, port: int, cookie: str, until: float, pauses: bool, raw: Any) -> None:
        super().__init__(name=f"person {number}", daemon=True)
        self.random, self.until, self.number, self.pauses = Random(number), until, number, pauses
        self.path = f"/api/designs/d{number % DESIGNS}"
        self.headers = {"Cookie": f"anabasis-{port}={cookie}"}
        self.line = http.client.HTTPConnection("127.0.0.1", port, timeout=PATIENCE_S)
        self.vlans = len(raw["vlans"])
        self.rules = [
            f"/devices/{d}/rules/{r}/enabled"
            for d, device in enumerate(raw["devices"])
            for r in range(len(device.get("rules", [])))
        ]
        self.reads = [r for r in READS if "source=" not in r or "tidewrack" in str(raw["name"]).lower()]
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
                if self.pauses:
                    time.sleep(self.random.uniform(*THINKS_S))
                if self.random.randrange(10) < EDITS_OF_TEN:
                    self.edit()
                else:
                    self.ask("read", "GET", f"{self.path}/{self.random.choice(self.reads)}")
        except (OSError, http.client.HTTPException, ValueError, KeyError) as error:
            self.faults.append(repr(error))

    def edit(self) -> None:
        """Change something of one's own; where somebody was faster, put it on top."""
        version = self.ask("read", "GET", f"{self.path}/draft")[1]["version"]
        words = f"seen by {self.number} at {time.time():.0f}"
        patch: Any = [{"op": "add", "path": f"/vlans/{self.number % self.vlans}/note", "value": words}]
        if self.random.randrange(4) == 0:
            patch = [{"op": "add", "path": self.random.choice(self.rules), "value": self.random.random() < 0.5}]
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


def memory_of(number: int | None) -> int:
    """Return the MiB a process holds."""
    lines = Path(f"/proc/{number}/status").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmRSS")) // 1024


def main(people: int = 50, seconds: float = 60, servers: int = 1, pauses: bool = True, site: str = "demo") -> None:
    """Print how many answers there were, how long they took, what went wrong, and what the servers hold. SITE: demo, S, M or L."""
    designs = DESIGNS if site == "demo" else 1
    demo = load_file(ROOT / "demo" / "tidewrack.yaml").raw
    raw = demo if site == "demo" else generated_site(*SIZES[site])
    with Cluster.for_a_while(durable=True) as cluster:
        engine = connect(cluster.url)
        migrate(engine)
        store, accounts, now = Store(engine), People(engine), datetime.now(UTC)
        for k in range(DESIGNS):
            store.create(f"d{k}", raw if k < designs else demo, now)
        owners = [accounts.ensure(f"person {n}", now) for n in range(people)]
        cookies = [accounts.enter(accounts.link(p.id, now), now).cookie for p in owners]
        ports = [free_port() for _ in range(servers)]
        running = [get_context("spawn").Process(target=serve, args=(cluster.url, p), daemon=True) for p in ports]
        for server in running:
            server.start()
        try:
            for port in ports:
                while socket.socket().connect_ex(("127.0.0.1", port)):
                    time.sleep(0.1)
            before = [memory_of(s.pid) for s in running]
            began = time.perf_counter()
            crowd = [
                Person(n if designs > 1 else n * DESIGNS, ports[n % servers], c, began + seconds, pauses, raw)
                for n, c in enumerate(cookies)
            ]
            for person in crowd:
                person.start()
            for person in crowd:
                person.join(timeout=seconds + PATIENCE_S)
            spent = time.perf_counter() - began
            after = [memory_of(s.pid) for s in running]
        finally:
            for server in running:
                server.kill()
        for what in ("read", "edit"):
            took = [t for p in crowd for t in p.took[what]]
            if len(took) < 2:
                continue
            cuts = quantiles(took, n=100, method="inclusive")
            print(
                f"{what}: {len(took)} answers, median {cuts[49] * 1000:.0f} ms, 99th percentile {cuts[98] * 1000:.0f} ms, slowest {max(took) * 1000:.0f} ms"
            )
        answers = sum((p.answers for p in crowd), Counter())
        stored = sum(len(store.edits(f"d{k}")) for k in range(designs))
        print(
            f"{site}, {people} people, {servers} servers, {spent:.0f} s: {sum(answers.values()) / spent:.0f} answers a second, {dict(answers)}; "
            f"{stored} edits stored ({stored / spent * 60:.0f} a minute), {answers[412]} met another edit first"
        )
        print(f"memory of the servers: {before} MiB before, {after} after")
        faults = [f for p in crowd for f in p.faults]
        print(f"errors: {len(faults)}", *faults[:5], sep="\n")
        if faults:
            raise SystemExit(1)


if __name__ == "__main__":
    typer.run(main)
