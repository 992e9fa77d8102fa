"""A campaign run: cases in chunks of about the same length, in this process or by workers of a Dask scheduler; rows come as they are done, in any order."""

from __future__ import annotations

import logging
from collections import OrderedDict, deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from time import perf_counter
from typing import Any, Protocol, TypeVar

from anabasis.campaign.cases import Case
from anabasis.campaign.judging import Judge, Row, digest_of
from anabasis.design import Tree
from anabasis.errors import InputRefused, Problem, WorkersLost

CHUNK_S, FIRST, MOST = 1.5, 4, 400
"""How long a chunk is meant to take; how many cases the first ones hold, and any at most."""
WAITING = 3
"""How many chunks a worker are given out at once."""
JUDGES = 4
"""Of how many designs a worker keeps the sound state."""


@dataclass(frozen=True)
class Progress:
    """How far a campaign is."""

    done: int
    total: int
    left_s: float | None
    """About how long it goes on; None = nobody knows yet."""


class Judgement(Protocol):
    """What comes of a case, of whatever kind."""

    @property
    def seconds(self) -> float:
        """Return what it took."""


R = TypeVar("R", bound=Judgement)
Work = Callable[[Tree, str, Sequence[Case]], list[R]]
"""From a document, its digest and some cases of it to what comes of each."""


_judges: OrderedDict[str, Judge] = OrderedDict()


def judged(tree: Tree, digest: str, cases: Sequence[Case]) -> list[Row]:
    """Return the rows of a chunk; a worker keeps the sound states of the designs it saw last."""
    judge = _judges.pop(digest, None) or Judge(tree)
    _judges[digest] = judge
    while len(_judges) > JUDGES:
        _judges.popitem(last=False)
    return [judge.judge(c) for c in cases]


def run(
    designs: Mapping[str, Tree],
    cases: Sequence[Case],
    scheduler: str | None = None,
    workers: int = 1,
    tell: Callable[[Progress], bool] = lambda _: True,
    work: Work[R] = judged,  # type: ignore[assignment]
    apart: bool = False,
) -> Iterator[R]:
    """Yield the rows of cases as they are done. `work`: what is done with them.

    `scheduler`: the address of a Dask scheduler; None = this machine, this process where `workers` is 1 and it need not be `apart`, else so many of an embedded cluster on
    loopback. A worker that is lost is made up for by the others. `tell`: heard with how far it is; False stops it. Raises InputRefused where nobody answers at the address, WorkersLost where they stop answering.
    """
    watch = _Watch(len(cases), tell)
    if not cases:
        return
    if scheduler is None and workers == 1 and not apart:
        for case in cases:
            tree = designs[case.design]
            rows = work(tree, watch.digest(case.design, tree), [case])
            yield from rows
            if not watch.came(rows):
                return
        return
    yield from _by_workers(designs, cases, scheduler, workers, watch, work)


class _Watch:
    """Counts what is done, and says how many cases make a chunk."""

    def __init__(self, total: int, tell: Callable[[Progress], bool]) -> None:
        self.total, self.tell = total, tell
        self.done = 0
        self.spent = 0.0
        self.begun = perf_counter()
        self._digests: dict[str, str] = {}

    def digest(self, name: str, tree: Tree) -> str:
        """Return the digest of a design, worked out once."""
        if name not in self._digests:
            self._digests[name] = digest_of(tree)
        return self._digests[name]

    def size(self) -> int:
        """Return how many cases the next chunk is to hold, by what those before took."""
        return FIRST if not self.done else max(1, min(MOST, int(CHUNK_S * self.done / max(self.spent, 1e-6))))

    def came(self, rows: Sequence[Judgement]) -> bool:
        """Count rows; tell whether to go on."""
        self.done += len(rows)
        self.spent += sum(r.seconds for r in rows)
        left = (perf_counter() - self.begun) * (self.total - self.done) / self.done if self.done else None
        return self.tell(Progress(self.done, self.total, left))


def _by_workers(
    designs: Mapping[str, Tree],
    cases: Sequence[Case],
    scheduler: str | None,
    workers: int,
    watch: _Watch,
    work: Work[R],
) -> Iterator[R]:
    from distributed import Client, LocalCluster, as_completed

    logging.getLogger("distributed").setLevel(logging.WARNING)  # it tells of everything it does, in whoever's log
    with ExitStack() as held:
        address: Any = scheduler
        if scheduler is None:
            address = held.enter_context(
                LocalCluster(
                    n_workers=workers,
                    threads_per_worker=1,
                    processes=True,
                    host="127.0.0.1",
                    dashboard_address="127.0.0.1:0",
                )
            )
        try:
            client = held.enter_context(Client(address, timeout="10s"))
        except (OSError, ValueError) as error:
            raise InputRefused(
                [Problem("--scheduler", "no scheduler answers there", repr(scheduler), f"tcp://host:8786 ({error})")]
            ) from None
        there = {
            name: client.submit(_kept, tree, pure=False) for name, tree in designs.items()
        }  # lost with a worker, it is sent again
        chunks = _Chunks(cases)
        able = max(1, len(client.scheduler_info(n_workers=-1)["workers"])) * WAITING

        def given() -> Iterator[Any]:
            if (chunk := chunks.next(watch.size())) is not None:
                name, some = chunk
                yield client.submit(work, there[name], watch.digest(name, designs[name]), some, pure=False, retries=3)

        under_way = as_completed([f for _ in range(able) for f in given()], with_results=True)
        for future, rows in under_way:
            if isinstance(rows, BaseException):  # the scheduler is gone, or no worker stays alive
                raise WorkersLost(type(rows).__name__)
            yield from rows
            future.release()
            if not watch.came(rows):
                return
            for more in given():
                under_way.add(more)


def _kept(tree: Tree) -> Tree:
    """Return a design: what a worker keeps, and the others have from it."""
    return tree


class _Chunks:
    """Cases by design, so that a worker stays with one as long as it can."""

    def __init__(self, cases: Sequence[Case]) -> None:
        self._of: dict[str, deque[Case]] = {}
        for case in cases:
            self._of.setdefault(case.design, deque()).append(case)

    def next(self, size: int) -> tuple[str, list[Case]] | None:
        """Return the next cases of one design, so many at most; None where none are left."""
        while self._of:
            name, waiting = next(iter(self._of.items()))
            if waiting:
                return name, [waiting.popleft() for _ in range(min(size, len(waiting)))]
            del self._of[name]
        return None
