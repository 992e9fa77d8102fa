"""Who is looking at which design, and what they are told while they look: notices of the database handed on to open pages."""

from __future__ import annotations

import asyncio
from collections import defaultdict
from collections.abc import Callable, Collection
from dataclasses import asdict, dataclass
from time import monotonic
from typing import Any

from anabasis.store import Notice

HERE_LASTS_S = 50.0
"""How long a page counts as open after it was last heard of."""
WAITING = 200
"""How many events may wait for one page; the line of a page that takes none for so long is closed, and it begins anew."""
CLOSE: Notice = {"kind": "close"}


@dataclass(frozen=True)
class Here:
    """One open page."""

    tab: str
    who: str
    stage: str
    at: str | None
    """The thing selected there."""


class Hub:
    """The open pages of one server. `hear` and `alive` may be called from any thread; the rest belongs to the event loop."""

    def __init__(self, clock: Callable[[], float] = monotonic) -> None:
        """`clock`: seconds that go on, from any beginning."""
        self._clock = clock
        self._pages: dict[str, set[asyncio.Queue[Notice]]] = defaultdict(set)
        self._here: dict[str, dict[str, tuple[Here, float]]] = defaultdict(dict)
        self._loop: asyncio.AbstractEventLoop | None = None
        self.up = True
        """The database can be heard."""

    def bind(self, loop: asyncio.AbstractEventLoop) -> None:
        """Say in which loop pages wait."""
        self._loop = loop

    def hear(self, notice: Notice) -> None:
        """Take a notice of the database."""
        self._soon(notice)

    def alive(self, up: bool) -> None:
        """Take note that the database can, or can not, be heard; every page is told."""
        if up != self.up:
            self.up = up
            self._soon({"kind": "store", "up": up})

    def leave(self) -> None:
        """Close every line: the server ends."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._close_all)

    def _close_all(self) -> None:
        for page in self._open():
            page.put_nowait(CLOSE)

    def _open(self) -> set[asyncio.Queue[Notice]]:
        return set().union(*self._pages.values())

    @property
    def open_pages(self) -> int:
        """Tell how many lines are open."""
        return len(self._open())

    def _soon(self, notice: Notice) -> None:
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._hand_on, notice)

    def _hand_on(self, notice: Notice) -> None:
        if notice["kind"] == "here":
            self._settle(notice)
            notice = {"kind": "here", "design": notice["design"], "pages": self.here(notice["design"])}
        for page in self._pages.get(notice["design"], ()) if "design" in notice else self._open():
            if page.qsize() <= WAITING:
                page.put_nowait(notice if page.qsize() < WAITING else CLOSE)

    def _settle(self, notice: Notice) -> None:
        pages = self._here[notice["design"]]
        if notice.get("gone"):
            for tab in [
                t for t, (h, _) in pages.items() if t == notice["tab"] or (not notice["tab"] and h.who == notice["who"])
            ]:
                del pages[tab]
        else:
            here = Here(notice["tab"], notice["who"], notice["stage"], notice.get("at"))
            pages[here.tab] = here, self._clock()

    def here(self, design: str) -> list[dict[str, Any]]:
        """Return the pages open on a design, heard of lately."""
        pages, now = self._here.get(design, {}), self._clock()
        for tab in [t for t, (_, seen) in pages.items() if now - seen > HERE_LASTS_S]:
            del pages[tab]
        return [asdict(here) for here, _ in pages.values()]

    def open(self, designs: Collection[str]) -> asyncio.Queue[Notice]:
        """Return what a page that looks at some designs is told from now on."""
        page: asyncio.Queue[Notice] = asyncio.Queue()
        for design in designs:
            self._pages[design].add(page)
        return page

    def close(self, designs: Collection[str], page: asyncio.Queue[Notice]) -> None:
        """Forget a page, or some of the designs it looked at."""
        for design in designs:
            self._pages[design].discard(page)
            if not self._pages[design]:
                del self._pages[design]
