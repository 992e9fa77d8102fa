"""`make bench`: one row a size. Ratios compare with a plain pass in the same run, so that the machine does not matter."""

from __future__ import annotations

import statistics
import sys
from pathlib import Path
from time import perf_counter

from rich.console import Console
from rich.table import Table

from anabasis.design import Design, load_file, parse_design
from anabasis.fabric import Conditions, build_fabric, compute_segments
from anabasis.failover import Progress, WhatIf, breakable, sweep_failures
from bench.generated import generated_site
from bench.reach import HEADINGS, SIZES, measured, timed
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
    """Measure layer 2, then reach at each size asked for: `python -m bench S M L XL`; S, M and L where nothing is said."""
    console = Console(width=170)
    layer2(console)
    failover(console)
    table = Table(box=None, header_style="bold")
    for heading in HEADINGS:
        table.add_column(heading, justify="right")
    for size in sys.argv[1:] or ("S", "M", "L"):
        table.add_row(*measured(size))
    console.print(table)


if __name__ == "__main__":
    main()
