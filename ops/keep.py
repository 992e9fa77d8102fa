"""Back up and restore: everything stored, in one file. `python ops/keep.py backup|restore FILE`."""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from anabasis.store import connect, migrate  # noqa: E402
from ops.cluster import Cluster, state_folder  # noqa: E402


def main(verb: str, file: Path) -> None:
    """Do one of the two; the cluster is started for it where it does not run."""
    home = state_folder(ROOT)
    home.mkdir(parents=True, exist_ok=True)
    cluster = Cluster(home)
    ran = (cluster.data / "PG_VERSION").exists() and cluster.running()
    cluster.start()
    try:
        if verb == "backup":
            cluster.back_up(file)
            print(f"{file}: {file.stat().st_size // 1024} KiB")
        else:
            cluster.restore(file)
            migrate(connect(cluster.url))
            print(f"Restored from {file}. Everybody signs in again; servers that run go on with it by themselves.")
    finally:
        if not ran:
            cluster.stop()


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
