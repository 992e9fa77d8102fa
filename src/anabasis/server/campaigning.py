"""Campaigns in the background: one of a kind at a time, in processes of their own or on a Dask scheduler; rows are kept as they come, and a campaign goes on where it was."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from threading import BoundedSemaphore, Lock, Thread
from time import monotonic, sleep
from typing import Any

from anabasis.campaign import (
    Defence,
    Harm,
    Mistake,
    Opened,
    Progress,
    Row,
    cases_of,
    harm_of,
    mistakes_of,
    read_row,
    run,
)
from anabasis.errors import AnabasisError, InputRefused, NoSuchThing, Problem, StoreUnavailable
from anabasis.store import CampaignRecord, Campaigns, Case

LOG = logging.getLogger("anabasis.campaigns")
MOST_CASES = 2_000_000
"""Of one campaign."""
KEEP_S, KEEP_MANY = 2.0, 500
"""After how long, or after how many rows, what came is kept."""
END_S = 8.0
"""How long the end of the server waits for the workers of a campaign."""
SEARCHES = 8
"""Of how many campaigns what they show is kept in memory."""
TRIES, WAIT_S = 60, 2.0
"""How often, and how far apart, it is tried to keep rows while the database does not answer."""


@dataclass
class Going:
    """One campaign that goes on, or has just ended."""

    state: str = "running"
    wanted: bool = True
    done: int = 0
    total: int = 0
    left_s: float | None = None
    why: str = ""


class Campaigning:
    """The campaigns of an application that go on."""

    def __init__(self, store: Campaigns, scheduler: str | None = None) -> None:
        """`scheduler`: the address of a Dask scheduler; None = a process of this machine."""
        self._store, self.scheduler = store, scheduler
        self._of: dict[int, Going] = {}
        self._searches: dict[int, Defence] = {}
        self._harms: dict[int, tuple[int, Harm]] = {}
        self._mistakes: dict[int, dict[str, dict[str, Mistake]]] = {}
        self._lock = Lock()
        self._rooms = {kind: BoundedSemaphore(1) for kind in ("harm", "defence")}
        self._threads: list[Thread] = []

    def start(self, record: CampaignRecord) -> Going:
        """Begin a campaign, or let it go on where it was; one that goes on already is left alone."""
        with self._lock:
            known = self._of.get(record.id)
            if known is not None and known.state == "running":
                return known
            going = self._of[record.id] = Going(done=record.done, total=record.total)
        thread = Thread(target=self._run, args=(record, going), daemon=True, name="campaign")
        self._threads = [t for t in self._threads if t.is_alive()] + [thread]
        thread.start()
        return going

    def get(self, id_: int) -> Going | None:
        """Return a campaign that went on here."""
        return self._of.get(id_)

    def search(self, record: CampaignRecord) -> Defence:
        """Return the search of a design, as far as it has come; the last few that were looked at are kept."""
        with self._lock:
            if record.id not in self._searches:
                _make_room(self._searches)
                self._searches[record.id] = _search_of(self._store, record)
            return self._searches[record.id]

    def harm(self, id_: int, judged: int) -> Harm:
        """Return what the rows of a campaign show; while they come, not anew for each tenth of them."""
        known = self._harms.get(id_)
        going = self._of.get(id_)
        runs = going is not None and going.state == "running"
        if known is None or known[0] > judged or (known[0] < judged and not (runs and judged < known[0] * 1.1)):
            _make_room(self._harms)
            known = self._harms[id_] = judged, harm_of(map(read_row, self._store.every_row(id_)))
        return known[1]

    def mistakes(self, id_: int) -> dict[str, dict[str, Mistake]]:
        """Return by document what rows of a campaign call mistakes; on a large site they take a minute to count out."""
        if id_ not in self._mistakes:
            _make_room(self._mistakes)
            self._mistakes[id_] = {name: mistakes_of(tree) for name, tree in self._store.documents(id_).items()}
        return self._mistakes[id_]

    def stop(self, id_: int) -> None:
        """Let a campaign end as soon as it can; what is judged is kept."""
        if (going := self._of.get(id_)) is not None:
            going.wanted = False

    def end(self) -> None:
        """Stop all of them: the server ends. Their workers are given a moment to end in order."""
        for going in self._of.values():
            going.wanted = False
        late = monotonic() + END_S
        for thread in self._threads:
            thread.join(max(0.0, late - monotonic()))

    def _run(self, record: CampaignRecord, going: Going) -> None:
        with self._rooms[record.kind]:
            if not going.wanted:
                going.state = "stopped"
                return
            try:
                if record.kind == "defence":
                    found: Iterator[Case | None] = _defence(self.search(record), going, self.scheduler)
                else:
                    found = _harm(self._store, record, going, self.scheduler)
                self._keep(record, going, found)
                going.state = "ended" if going.wanted else "stopped"
            except NoSuchThing:  # it was taken out
                going.state = "stopped"
                return
            except AnabasisError as error:
                going.state, going.why = ("failed", str(error)) if going.wanted else ("stopped", "")
            except Exception as error:  # a fault of ours: it is over, and says so
                LOG.exception("a campaign failed")
                going.state, going.why = "failed", type(error).__name__
            try:
                self._store.keep(record.id, [], going.done, going.total, going.state)
            except (NoSuchThing, StoreUnavailable):
                LOG.warning("how campaign %d ended could not be kept", record.id)

    def _keep(self, record: CampaignRecord, going: Going, found: Iterator[Case | None]) -> None:
        held: list[Case] = []
        last = monotonic()
        for case in found:
            held += [case] if case is not None else []
            if len(held) >= KEEP_MANY or monotonic() - last > KEEP_S:
                self._put(record, going, held)
                held, last = [], monotonic()
        self._put(record, going, held)

    def _put(self, record: CampaignRecord, going: Going, held: list[Case]) -> None:
        for k in range(TRIES):
            try:
                return self._store.keep(record.id, held, going.done, going.total, going.state)
            except StoreUnavailable:
                if k == TRIES - 1 or not going.wanted:
                    raise
                sleep(WAIT_S)


def _make_room(kept: dict[int, Any]) -> None:
    """Drop what was kept first, while there are too many."""
    while len(kept) >= SEARCHES:
        kept.pop(next(iter(kept)))


def _told(going: Going, behind: int = 0) -> Callable[[Progress], bool]:
    def tell(progress: Progress) -> bool:
        going.done, going.left_s = behind + progress.done, progress.left_s
        return going.wanted

    return tell


def _harm(store: Campaigns, record: CampaignRecord, going: Going, scheduler: str | None) -> Iterator[Case]:
    """Yield the cases of a campaign that are not judged yet."""
    designs, asked = store.documents(record.id), record.asked
    had = {read_row(said).key for said in store.every_row(record.id)}
    every = [c for name, tree in designs.items() for c in cases_of(name, tree, **asked)]
    if len(every) > MOST_CASES:
        problem = "a campaign of the workbench has fewer cases; `anabasis campaign` has no such limit"
        raise InputRefused([Problem("", problem, str(len(every)), f"at most {MOST_CASES}")])
    todo = [c for c in every if c.key not in had]
    going.total, going.done = len(every), len(every) - len(todo)
    row: Row
    for row in run(designs, todo, scheduler, 1, _told(going, going.done), apart=True):
        yield Case(row.key, len(row.opened), len(row.closed), row.lost, row.meanwhile, row.as_dict())


def _defence(search: Defence, going: Going, scheduler: str | None) -> Iterator[Case | None]:
    """Yield the single cases of a search, and pairs that open something; None for any other pair."""

    def tell(progress: Progress) -> bool:
        going.done, going.total, going.left_s = search.done, search.total, progress.left_s
        return going.wanted

    for row in search.run(scheduler, 1, tell, apart=True):
        going.done, going.total = search.done, search.total
        kept = row.case.size == 1 or row.opened
        yield Case(row.case.key, len(row.opened), 0, 0, 0, row.as_dict()) if kept else None
    if going.wanted:
        going.done, going.total = search.done, search.total


def _search_of(store: Campaigns, record: CampaignRecord) -> Defence:
    """Return the search of a design as far as it is kept."""
    ((name, tree),) = store.documents(record.id).items()
    known = [Opened.read(said) for said in store.every_row(record.id)]
    singles = sum(r.case.size == 1 for r in known)
    return Defence(name, tree, known, max(0, record.done - singles))
