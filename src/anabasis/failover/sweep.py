"""All single failures of a site, and all pairs of failures: in parallel, with progress, to be stopped at any time."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from dataclasses import dataclass
from itertools import combinations, islice
from multiprocessing import get_context
from os import cpu_count

from anabasis.design import Design
from anabasis.fabric import Conditions
from anabasis.failover.parts import Part, breakable
from anabasis.failover.what_if import Event, WhatIf

CHUNK = 6
"""How many failures one process takes at a time."""


@dataclass(frozen=True)
class Swept:
    """Failures that come out alike."""

    failed: tuple[str, ...]
    """The first of them."""
    alike: tuple[tuple[str, ...], ...]
    """The others."""
    event: Event
    single_point: bool
    """A single failure that breaks an expectation, or stops pairs, for good."""


@dataclass(frozen=True)
class Progress:
    """How far a sweep is."""

    done: int
    total: int


def sweep_failures(
    design: Design,
    depth: int,
    told: Callable[[Progress], bool] = lambda progress: True,
    workers: int | None = None,
) -> list[Swept]:
    """Return all failures of one part, or of one and of two, worst first. `told` is called as it goes on; False stops it.

    `workers`: processes; 1 = this one, None = one a core. What is done when it is stopped is returned.
    """
    parts = breakable(design)
    cases = [tuple(c) for n in range(1, depth + 1) for c in combinations(parts, n)]
    events: list[tuple[tuple[Part, ...], Event]] = []
    chunks = [cases[k : k + CHUNK] for k in range(0, len(cases), CHUNK)]
    for found in _computed(design, chunks, workers or cpu_count() or 1):
        events += found
        if not told(Progress(len(events), len(cases))):
            break
    return _folded(events)


def _computed(
    design: Design, chunks: list[list[tuple[Part, ...]]], workers: int
) -> Iterator[list[tuple[tuple[Part, ...], Event]]]:
    if workers == 1 or len(chunks) < 3:
        what_if = WhatIf(design)
        for chunk in chunks:
            yield _events(what_if, chunk)
        return
    with ProcessPoolExecutor(workers, get_context("spawn"), _begin, (design,)) as pool:
        waiting = iter(chunks)
        running: set[Future[list[tuple[tuple[Part, ...], Event]]]] = set()
        try:
            while True:
                running |= {pool.submit(_chunk, chunk) for chunk in islice(waiting, 2 * workers - len(running))}
                if not running:
                    return
                done, running = wait(running, return_when=FIRST_COMPLETED)
                for future in done:
                    yield future.result()
        finally:
            pool.shutdown(wait=False, cancel_futures=True)


_HERE: dict[str, WhatIf] = {}
"""What a worker process keeps from one chunk to the next."""


def _begin(design: Design) -> None:
    _HERE["what-if"] = WhatIf(design)


def _chunk(chunk: list[tuple[Part, ...]]) -> list[tuple[tuple[Part, ...], Event]]:
    return _events(_HERE["what-if"], chunk)


def _events(what_if: WhatIf, chunk: list[tuple[Part, ...]]) -> list[tuple[tuple[Part, ...], Event]]:
    return [(case, what_if.event(Conditions(frozenset(p.name for p in case)))) for case in chunk]


def _folded(events: list[tuple[tuple[Part, ...], Event]]) -> list[Swept]:
    """Fold failures whose events are the same but for what failed, and sort them by harm."""
    groups: dict[object, list[tuple[tuple[Part, ...], Event]]] = {}
    for case, event in events:
        key = (
            len(case),
            event.detect_ms,
            event.sessions,
            tuple(s.election.active for s in event.standings),
            tuple((m.lost, m.broken) for m in event.moments),
        )
        groups.setdefault(key, []).append((case, event))
    out: list[Swept] = []
    for group in groups.values():
        case, event = group[0]
        alike = [e.failed for _, e in group[1:]]
        if len(case) == 1:  # of two failures those that come to the same at the wall are not told: they are many
            alike += [(n,) for c, _ in group for n in c[0].alike]
        single = len(case) == 1 and event.harm > (0, 0)
        out.append(Swept(event.failed, tuple(alike), event, single))
    return sorted(out, key=lambda s: ((-s.event.harm[0], -s.event.harm[1]), len(s.failed), s.failed))
