"""`make bench`: one row a size. Ratios compare with a plain pass in the same run, so that the machine does not matter."""

from __future__ import annotations

import statistics
import tracemalloc
from collections.abc import Callable
from time import perf_counter

from rich.console import Console
from rich.table import Table

from anabasis.climb import Climb
from anabasis.design import Design, apply, parse_design
from anabasis.fabric import build_fabric, compute_segments
from anabasis.reach import matrix
from bench.sites import large_site

SIZES = ((4, 24, 12, 20), (10, 48, 60, 300), (20, 48, 120, 600))
"""(switches, access ports each, VLANs, rules)"""
SAMPLE = 200
"""How many flows are walked for the yardstick of one packet."""


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


def one_walk(climb: Climb) -> float:
    """Return the seconds of one walk there and back, the median of a sample: the yardstick of a pair."""
    verdicts, times = climb.verdicts(), []
    for a, b in climb.sweep.pairs[:: max(1, len(climb.sweep.pairs) // SAMPLE)]:
        start = perf_counter()
        verdicts.show(a, b, stopped=True)
        times.append(perf_counter() - start)
    return statistics.median(times)


def timed(work: Callable[[], object]) -> float:
    """Return the seconds some work takes."""
    start = perf_counter()
    work()
    return perf_counter() - start


def reach(size: tuple[int, int, int, int]) -> tuple[str, ...]:
    """Measure one size: cold, and after one rule is edited."""
    raw = large_site(*size)
    climb = Climb(parse_design(raw))
    tracemalloc.start()
    below = timed(lambda: climb.site)
    pairs = timed(lambda: [climb.sweep.pair(*p) for p in climb.sweep.pairs])
    told = timed(lambda: matrix(climb.verdicts()))
    peak = tracemalloc.get_traced_memory()[1] / 2**20
    tracemalloc.stop()
    patch = [{"op": "replace", "path": "/devices/0/rules/3/action", "value": "drop"}]
    edited = Climb(apply(raw, patch)[1])
    edit = timed(lambda: edited.consequences_since(climb))
    count = len(climb.site.segments.all)
    each = pairs / (count * (count - 1))
    figures = (
        f"{below:.2f}",
        f"{pairs:.2f}",
        f"{each / one_walk(climb):.2f}",
        f"{told:.2f}",
        f"{edit:.2f}",
        f"{peak:.0f}",
    )
    return (str(count), str(size[3]), str(count * (count - 1)), *figures)


def main() -> None:
    """Measure every size."""
    table = Table(box=None, header_style="bold")
    headings = (
        "segments",
        "rules",
        "pairs",
        "layers 1-3, s",
        "all pairs, s",
        "a pair / a walk",
        "matrix, s",
        "one rule edited, s",
        "peak MiB",
    )
    for heading in headings:
        table.add_column(heading, justify="right")
    for size in SIZES:
        table.add_row(*reach(size))
    console = Console(width=140)
    layer2(console)
    console.print(table)


if __name__ == "__main__":
    main()
