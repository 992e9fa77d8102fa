"""`make bench`: one row a size. Ratios compare with a plain pass in the same run, so that the machine does not matter."""

from __future__ import annotations

import itertools
import tracemalloc
from time import perf_counter

from rich.console import Console
from rich.table import Table

from anabasis.climb import Climb
from anabasis.design import Design, parse_design
from anabasis.fabric import build_fabric, compute_segments
from bench.sites import large_site

SIZES = ((4, 24, 12, 20), (10, 48, 30, 60), (20, 48, 60, 120))
"""(switches, access ports each, VLANs, rules)"""


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


def main() -> None:
    """Measure every size."""
    table = Table(box=None, header_style="bold")
    headings = (
        "segments",
        "rules",
        "pairs",
        "layers 1-3, s",
        "x plain pass",
        "sweep, s",
        "all verdicts, s",
        "peak MiB",
    )
    for heading in headings:
        table.add_column(heading, justify="right")
    for size in SIZES:
        design = parse_design(large_site(*size))
        yard = plain_pass(design)
        tracemalloc.start()
        times = [perf_counter()]
        climb = Climb(design)
        for step in (lambda c=climb: c.site, lambda c=climb: c.sweep, lambda c=climb: c.verdicts().all):
            step()
            times.append(perf_counter())
        peak = tracemalloc.get_traced_memory()[1] / 2**20
        tracemalloc.stop()
        site, sweep, judged = (b - a for a, b in itertools.pairwise(times))
        count = len(climb.site.segments.all)
        row = (
            count,
            size[3],
            count * (count - 1),
            f"{site:.2f}",
            f"{site / yard:.0f}",
            f"{sweep:.2f}",
            f"{judged:.2f}",
            f"{peak:.0f}",
        )
        table.add_row(*map(str, row))
    console = Console(width=140)
    layer2(console)
    console.print(table)


if __name__ == "__main__":
    main()
