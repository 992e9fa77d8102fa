"""What the routers share: the store, the clock, and the climbs of recent drafts."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from threading import BoundedSemaphore, Lock
from time import monotonic
from typing import Annotated

from fastapi import Depends, Header, Request

from anabasis.climb import Climb
from anabasis.design import Tree, as_of
from anabasis.design.schedules import AsOf
from anabasis.errors import MissingVersion
from anabasis.fabric import ALL_WELL, Conditions
from anabasis.memo import Memo
from anabasis.server.asking import Asking
from anabasis.server.campaigning import Campaigning
from anabasis.server.hub import Hub
from anabasis.server.knowing import Knowing
from anabasis.server.proving import Proofs
from anabasis.server.sweeps import Sweeps
from anabasis.server.turns import Turns, Works
from anabasis.store import Campaigns, Draft, History, People, Sheets, Store, Surveys, Tokens

Clock = Callable[[], datetime]
KEPT, KEPT_BYTES, KEPT_S = 16, 1 << 30, 1800.0
"""Climbs that are kept: so many, of so much memory together, for so long after they were last asked for; of each design asked for one stays."""
FAMILIES = 4096
"""Of how many designs it is kept whose what-ifs they are."""
WEIGHT = 50
"""Memory of a climb over the size of its document as JSON, as measured on sites of 60 to 1,000 segments."""


@dataclass
class _Kept:
    climb: Climb
    size: int
    """Bytes, as estimated from the document."""
    seen: float
    family: str


def utc_now() -> datetime:
    """Return the time now, in UTC."""
    return datetime.now(UTC)


def size_of(tree: Tree) -> int:
    """Return the bytes of a document as JSON."""
    return len(json.dumps(tree, ensure_ascii=False, separators=(",", ":")))


class State:
    """One running application."""

    def __init__(
        self,
        store: Store,
        clock: Clock,
        people: People | None = None,
        starts: Mapping[str, Tree] | None = None,
        scheduler: str | None = None,
    ) -> None:
        """`starts`: the starting points for new designs, by what they are called in addresses. `scheduler`: of Dask, for campaigns; None = a process of this machine."""
        self.store, self.clock, self.starts = store, clock, dict(starts or {})
        self.people, self.history = people or People(store.engine), History(store.engine)
        self.tokens = Tokens(store.engine)
        self.hub = Hub()
        self._climbs: OrderedDict[tuple[str, str, frozenset[str]], _Kept] = OrderedDict()
        """By design, the stamp of the document, and what has failed."""
        self._memos: dict[str, Memo] = {}
        """What is known of every design that somebody looks at, whatever its state: what-ifs of one share its memo, and its turns."""
        self.family = lru_cache(FAMILIES)(store.root_of)
        self._lock = Lock()
        self.sweeps = Sweeps()
        self.surveys, self.asking = Surveys(store.engine), Asking()
        self.sheets, self.knowing = Sheets(store.engine), Knowing()
        self.proofs = Proofs()
        self.campaigns = Campaigns(store.engine)
        self.campaigning = Campaigning(self.campaigns, scheduler)
        self.reading = BoundedSemaphore(2)
        """Files that are read at once: each may take some seconds and a hundred MiB."""
        self.turns, self.works = Turns(), Works()

    def climb(
        self, draft: Draft, conditions: Conditions = ALL_WELL, of: str | None = None, at: AsOf | None = None
    ) -> Climb:
        """Return the climb of a draft under conditions, kept for the next question about the same document.

        `of`: the design it is a state of, where that is not the draft's own name. Whoever asks has that design's turn. `at`: as it is then.
        """
        key = (draft.id, f"{draft.stamp} {at or ''}", conditions.failed)
        now, family = monotonic(), self.family(of or draft.id)
        with self._lock:
            kept = self._climbs.pop(key, None)
            if kept is None:
                design = draft.design if at is None else as_of(draft.design, at)
                climb = Climb(design, conditions, self._memos.setdefault(family, Memo()))
                kept = _Kept(climb, WEIGHT * size_of(draft.tree), now, family)
            kept.seen = now
            self._climbs[key] = kept
            self._tidy(now)
        return kept.climb

    def _tidy(self, now: float) -> None:
        """Drop what was asked for longest ago, while there is too much or it is too old; the last one asked for stays."""
        for key in list(self._climbs)[:-1]:
            mine = self._climbs[key]
            much = len(self._climbs) > KEPT or sum(k.size for k in self._climbs.values()) > KEPT_BYTES
            if much or now - mine.seen > KEPT_S:
                del self._climbs[key]
        looked_at = {k.family for k in self._climbs.values()}
        for id_ in [i for i in self._memos if i not in looked_at]:
            del self._memos[id_]

    @property
    def kept(self) -> int:
        """Tell how many climbs are kept."""
        return len(self._climbs)

    def forget(self, id_: str) -> None:
        """Drop the climbs of a design that is no more."""
        with self._lock:
            self._memos.pop(id_, None)
            for key in [k for k, kept in self._climbs.items() if id_ in (k[0], kept.family)]:
                del self._climbs[key]
            self.family.cache_clear()
        self.turns.forget(id_)
        self.sweeps.forget(id_)
        self.knowing.forget(id_)
        self.proofs.forget(id_)


def _state(request: Request) -> State:
    state: State = request.app.state.anabasis
    return state


TheState = Annotated[State, Depends(_state)]


def _seen(if_match: Annotated[str | None, Header(description="The ETag of the draft you saw.")] = None) -> int:
    text = (if_match or "").strip().removeprefix("W/").strip('"')
    if not text.isascii() or not text.isdigit() or len(text) > 9:
        raise MissingVersion("Send If-Match with the ETag of the draft you saw, so that nobody's edit is lost.")
    return int(text)


SeenVersion = Annotated[int, Depends(_seen)]


def etag(version: int) -> dict[str, str]:
    """Return the header that names a version (RFC 9110 section 8.8.3)."""
    return {"ETag": f'"{version}"'}
