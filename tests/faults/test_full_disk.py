"""A disk that is really full: a small file system in memory. What was answered is there, what was not is told, and with room again all goes on."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path
from random import Random

import pytest

from anabasis.store import Store, connect, migrate
from ops.cluster import Cluster
from tests.conftest import NOON, client_of
from tests.faults.small import SMALL

MIB = 2**20
SIZE, LEFT = 96 * MIB, 3 * MIB
"""Of the file system, and what is left of it: PostgreSQL needs some 60 MiB to begin with."""


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """Return a folder that is a file system of its own; where we may not mount one, there is nothing to try."""
    folder = tmp_path / "disk"
    folder.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "none", folder], capture_output=True)
    if mounted.returncode:
        pytest.skip("no file system may be mounted here")
    for above in folder.parents:  # the database's own user must get there
        if above.stat().st_uid == os.geteuid() and above != Path("/tmp"):
            above.chmod(above.stat().st_mode | 0o011)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "--lazy", folder], check=True)


def filled(folder: Path) -> Path:
    """Fill a file system but for a little; return the file that does."""
    filler = folder / "filler"
    with filler.open("wb") as file:
        free = os.statvfs(folder).f_bavail * os.statvfs(folder).f_frsize
        file.write(b"x" * max(0, free - LEFT))
    return filler


def test_a_full_disk(small_disk: Path) -> None:
    """Edits until none is kept any more, a backup to the same disk, then room again."""
    cluster, rng = Cluster(small_disk / "c"), Random(1)
    cluster.start()
    try:
        store = Store(connect(cluster.url))
        migrate(store.engine)
        store.create("d", SMALL, NOON)
        client = client_of(store, raise_server_exceptions=False)
        filler = filled(small_disk)
        answered, refused, version = {1: str(SMALL.get("note", ""))}, 0, 1
        for _ in range(2_000):
            note = "".join(rng.choices("abcdefghijklmnop", k=9_000))
            seen = {"If-Match": f'"{version}"', "Content-Type": "application/json-patch+json"}
            answer = client.patch(
                "/api/designs/d/draft", json=[{"op": "add", "path": "/note", "value": note}], headers=seen
            )
            if answer.status_code == 200:
                version = answer.json()["version"]
                answered[version] = note
            else:
                assert answer.status_code == 503, answer.text
                refused += 1
            if refused >= 5:
                break
        assert refused >= 5, "the disk was never full"
        assert len(answered) > 20
        with pytest.raises(SystemExit, match="not written"):
            cluster.back_up(small_disk / "full.backup")
        assert not [p for p in small_disk.iterdir() if "backup" in p.name]
        filler.unlink()
        cluster.start(same_port=True)
        again = Store(connect(cluster.url))
        draft = again.draft("d")
        assert draft.version == version
        assert draft.tree.get("note", "") == answered[version]
        kept = {e.version: e.patch[0]["value"] for e in again.edits("d", 0)}
        assert all(kept[v] == note for v, note in answered.items() if v > 1 and v in kept)
        assert (
            again.edit("d", version, [{"op": "add", "path": "/note", "value": "room"}], "Oda", NOON).version
            == version + 1
        )
        cluster.back_up(small_disk / "good.backup")
    finally:
        cluster.stop()
