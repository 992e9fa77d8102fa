"""`python -m bench.campaigns`: rows a second of a campaign in one process, by one worker of a Dask scheduler on loopback and by two; and what a large one would cost.

Efficiency is rows a second a worker against those of one process, the medians of rounds that take turns: machines are busy with other things. Scheduler, client and
workers share the machine's cores. Bytes are all that went over loopback meanwhile, whoever sent them.
"""

from __future__ import annotations

import json
import pickle
import statistics
from pathlib import Path
from time import perf_counter
from typing import Any

import psutil
from distributed import LocalCluster
from rich.console import Console

from anabasis.campaign import cases_of, run
from anabasis.design import Tree, load_file
from bench.generated import generated_site
from bench.reach import SIZES

ROUNDS, EVERY = 3, 4


def rate(designs: dict[str, Tree], cases: list[Any], scheduler: str | None) -> float:
    """Return rows a second, once whoever works knows the designs."""
    list(run(designs, cases[:: len(cases) // 6], scheduler=scheduler))
    begun = perf_counter()
    count = sum(1 for _ in run(designs, cases, scheduler=scheduler))
    return count / (perf_counter() - begun)


def main() -> None:
    """Print a line a way of working it out."""
    console = Console()
    demo = {"demo": json.loads(json.dumps(load_file(Path("demo/tidewrack.yaml")).raw))}
    cases = list(cases_of("demo", demo["demo"], failures=0))[::EVERY]
    size = len(pickle.dumps(demo["demo"]))
    row = len(pickle.dumps(next(iter(run(demo, cases[:1])))))
    console.print(
        f"demo: {len(cases)} cases; a design is {size} bytes once a worker, a row {row} bytes, a case {len(pickle.dumps(cases[-1]))}"
    )
    moved: dict[str, list[float]] = {}
    with (
        LocalCluster(n_workers=1, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0") as one,
        LocalCluster(n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0") as two,
    ):
        ways = {
            "one process": (None, 1),
            "one worker": (one.scheduler_address, 1),
            "two workers": (two.scheduler_address, 2),
        }
        found: dict[str, list[float]] = {way: [] for way in ways}
        for _ in range(ROUNDS):
            for way, (address, _count) in ways.items():
                before = psutil.net_io_counters(pernic=True)["lo"].bytes_sent
                found[way].append(rate(demo, cases, address))
                sent = psutil.net_io_counters(pernic=True)["lo"].bytes_sent - before
                moved.setdefault(way, []).append(sent / len(cases))
    alone = statistics.median(found["one process"])
    for way, (_address, count) in ways.items():
        here = statistics.median(found[way])
        spread = f"{min(found[way]):.1f} to {max(found[way]):.1f}"
        console.print(
            f"{way}: {here:.1f} rows/s ({spread}), {here / alone / count:.2f} of one process a worker; {statistics.median(moved[way]):,.0f} bytes a row over loopback"
        )
    site = generated_site(*SIZES["M"])
    some = [c for c in cases_of("M", site, failures=0) if c.faults][::2500]
    console.print(
        f"M {SIZES['M']}, one process: {1 / rate({'M': site}, some, None):.2f} s a row over {len(some)} of its mistakes"
    )


if __name__ == "__main__":
    main()
