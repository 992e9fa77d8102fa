"""`make start` as a person runs it: the database killed under it, a second one beside it, and every way to end it."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from time import monotonic, sleep

import pytest
import requests

from ops.cluster import Cluster
from tests.conftest import ROOT
from tests.counts import count

KILLS = count(50, 2)


@pytest.fixture
def state() -> Iterator[Path]:
    """Return a folder for a cluster of its own; what still runs there is stopped."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-"))
    home.chmod(0o755)
    yield home / "state"
    Cluster(home / "state").remove()
    shutil.rmtree(home, ignore_errors=True)


@contextmanager
def started(state: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """Start the server; yields its process and its address."""
    with (state.parent / f"said-{monotonic()}").open("w+") as said:
        environment = {**os.environ, "ANABASIS_STATE": str(state), "PYTHONUNBUFFERED": "1"}
        line = [sys.executable, "ops/start.py"]
        process = subprocess.Popen(line, cwd=ROOT, env=environment, stdout=said, stderr=said, text=True)
        try:
            deadline = monotonic() + 90
            while not (found := re.search(r"is at (http://\S+)", Path(said.name).read_text())):
                assert process.poll() is None, Path(said.name).read_text()
                assert monotonic() < deadline, "it did not start"
                sleep(0.1)
            yield process, found[1]
        finally:
            process.kill()
            process.wait()


def healthy(address: str) -> bool:
    """Tell whether the server answers and hears its database."""
    try:
        return requests.get(f"{address}/healthz", timeout=10).status_code == 200
    except requests.RequestException:
        return False


def until_healthy(address: str) -> None:
    """Wait until it is well again."""
    deadline = monotonic() + 40
    while not healthy(address):
        assert monotonic() < deadline, "it did not come back"
        sleep(0.1)


def test_the_database_is_started_again_on_its_port(state: Path) -> None:
    """Killed at the first process, each time; a second start and a backup beside it do not move it either."""
    cluster = Cluster(state)
    with started(state) as (_, address):
        port = cluster.port_file.read_text()
        for _ in range(KILLS):
            first = int((cluster.data / "postmaster.pid").read_text().split()[0])
            os.kill(first, signal.SIGKILL)
            sleep(0.3)
            until_healthy(address)
            assert int((cluster.data / "postmaster.pid").read_text().split()[0]) != first
            assert cluster.port_file.read_text() == port
        with started(state) as (second, other):
            assert other != address
            kept = [sys.executable, "ops/keep.py", "backup", str(state.parent / "kept.backup")]
            environment = {**os.environ, "ANABASIS_STATE": str(state)}
            subprocess.run(kept, cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL)
            second.send_signal(signal.SIGTERM)
            assert second.wait(15) == 0
        assert cluster.port_file.read_text() == port
        assert healthy(address), "the one that goes on keeps its database"


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_every_signal_ends_it_in_order(state: Path, number: signal.Signals) -> None:
    """The server, its lines and its database: all of it, in seconds, while a page listens."""
    with started(state) as (process, address):
        secret = re.search(r"/enter/\S+", next(state.parent.glob("said-*")).read_text())
        assert secret
        session = requests.Session()
        session.get(address + secret[0], timeout=30, allow_redirects=False)
        for cookie in session.cookies:
            cookie.secure = False
        design = session.get(f"{address}/api/designs", timeout=60).json()[0]["id"]
        line = session.get(f"{address}/api/events?design={design}", stream=True, timeout=60)
        assert line.status_code == 200
        began = monotonic()
        process.send_signal(number)
        assert process.wait(20) == 0
        assert monotonic() - began < 10
        assert not Cluster(state).alive()
