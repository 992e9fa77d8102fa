"""`make bench`: one row a size. Ratios compare with a plain pass in the same run, so that the machine does not matter."""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
from pathlib import Path
from time import perf_counter

from rich.console import Console
from rich.table import Table

from anabasis.design import Design, load_file, parse_design
from anabasis.fabric import Conditions, build_fabric, compute_segments
from anabasis.failover import Progress, WhatIf, breakable, sweep_failures
from bench.generated import generated_site
from bench.reach import COLUMNS, GOALS, SIZES, beside, measured, timed
from bench.sites import large_site


def plain_pass(design: Design) -> float:
    """Return the seconds of one plain pass over all (port, VLAN) memberships: the yardstick of layer 2."""
    start = perf_counter()
    count = 0
    for device in design.devices:
        for port in device.ports:
            for vlan in (*port.tagged, *port.untagged):
                count += vlan > 0
    return max(perf_counter() - start, 1e-6)


def layer2(console: Console) -> None:
    """Measure the segments of a site with 200 switches, 10,000 ports and 500 VLANs."""
    design = parse_design(large_site(200, 50, 500, 0))
    yard = plain_pass(design)
    start = perf_counter()
    fabric = build_fabric(design)
    segments = compute_segments(fabric)
    spent = perf_counter() - start
    ports = sum(len(d.ports) for d in design.devices)
    console.print(
        f"layer 2: {len(design.devices) - 1} switches, {ports} ports, {len(design.vlans)} VLANs: "
        f"{len(segments.all)} segments in {spent:.2f} s, {spent / yard:.0f} x one plain pass over the memberships"
    )


def failover(console: Console) -> None:
    """Measure all double failures of the demo and all single failures of the M site, against computing each from nothing."""
    demo = load_file(Path("demo/tidewrack.yaml")).design
    for name, design, depth in (
        ("demo, every two", demo, 2),
        ("M, every one", parse_design(generated_site(*SIZES["M"])), 1),
    ):
        last = [Progress(0, 0)]

        def told(progress: Progress, last: list[Progress] = last) -> bool:
            last[0] = progress
            return True

        spent = timed(lambda design=design, depth=depth, told=told: sweep_failures(design, depth, told))
        sample = breakable(design)[:: max(1, len(breakable(design)) // 5)][:5]
        alone = statistics.median(
            timed(lambda part=part, design=design: WhatIf(design).event(Conditions(frozenset({part.name}))))
            for part in sample
        )
        console.print(
            f"failover: {name}: {last[0].total} failures in {spent:.1f} s, {alone * last[0].total / spent:.1f} x faster than each from nothing"
        )


def main() -> None:
    """Measure layer 2, then reach at each size asked for: `python -m bench demo S M L XL`; the first four where nothing is said.

    Each size is measured in a process of its own, so that memory is its own.
    """
    if sys.argv[1:2] == ["--one"]:
        print(json.dumps(measured(sys.argv[2])))
        return
    console = Console(width=170)
    layer2(console)
    failover(console)
    alone, together = beside("M")
    console.print(
        f"two designs at once: an edit of the demo {alone:.3f} s alone, {together:.3f} s while M is computed beside it"
    )
    sizes = sys.argv[1:] or ("demo", "S", "M", "L")
    found = {
        s: json.loads(
            subprocess.run(
                [sys.executable, "-m", "bench", "--one", s], check=True, capture_output=True, text=True
            ).stdout
        )
        for s in sizes
    }
    table = Table(box=None, header_style="bold")
    for heading in ("", *sizes):
        table.add_column(heading, justify="right" if heading else "left")
    for row in dict.fromkeys(r for figures in found.values() for r in figures):
        table.add_row(row, *(_cell(row, s, found[s]) for s in sizes))
    console.print(table)


def _cell(row: str, size: str, figures: dict[str, float]) -> str:
    """Return a figure with its goal, where there is one."""
    if row not in figures:
        return ""
    value, goal = figures[row], GOALS.get(row, (None,) * len(COLUMNS))[COLUMNS.index(size)]
    said = f"{value:.0f}" if value >= 20 else f"{value:.2f}" if value >= 1 else f"{value:.3f}"
    return f"{said} ({goal})" if goal is not None else said


if __name__ == "__main__":
    main()
