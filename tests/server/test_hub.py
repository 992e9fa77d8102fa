"""Open pages: who is told what, who is here, and what becomes of a page that takes nothing."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from typing import Any

from anabasis.server.hub import CLOSE, HERE_LASTS_S, WAITING, Hub


def within(work: Callable[[Hub], Awaitable[None]]) -> None:
    """Do something with a hub inside an event loop."""

    async def run() -> None:
        hub = Hub()
        hub.bind(asyncio.get_running_loop())
        await work(hub)

    asyncio.run(run())


async def taken(page: asyncio.Queue[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return all that waits for a page."""
    await asyncio.sleep(0)
    return [page.get_nowait() for _ in range(page.qsize())]


def test_a_page_hears_of_its_own_design() -> None:
    """And of the database, which is everybody's; after it is closed of nothing."""

    async def work(hub: Hub) -> None:
        one, two = hub.open(["one"]), hub.open(["two"])
        hub.hear({"design": "one", "kind": "edit", "version": 2})
        hub.alive(False)
        hub.alive(False)
        assert [n["kind"] for n in await taken(one)] == ["edit", "store"]
        assert await taken(two) == [{"kind": "store", "up": False}]
        hub.close(["one"], one)
        hub.hear({"design": "one", "kind": "edit", "version": 3})
        assert await taken(one) == []

    within(work)


def test_who_is_here() -> None:
    """A page that moves is still one page; one that goes is forgotten."""

    async def work(hub: Hub) -> None:
        page = hub.open(["d"])
        for stage in ("zones", "reach"):
            hub.hear({"design": "d", "kind": "here", "tab": "t", "who": "Edda", "stage": stage})
        hub.hear({"design": "d", "kind": "here", "tab": "u", "who": "Oda", "stage": "reach", "at": "/vlans/0"})
        told = await taken(page)
        assert [(p["who"], p["stage"]) for p in told[-1]["pages"]] == [("Edda", "reach"), ("Oda", "reach")]
        hub.hear({"design": "d", "kind": "here", "tab": "t", "who": "Edda", "stage": "", "gone": True})
        assert [p["who"] for p in (await taken(page))[-1]["pages"]] == ["Oda"]
        assert hub.here("another") == []

    within(work)


def test_a_page_that_takes_nothing_is_closed() -> None:
    """Once, after as many events as may wait; it does not hold the others up."""

    async def work(hub: Hub) -> None:
        page = hub.open(["d"])
        for version in range(2 * WAITING):
            hub.hear({"design": "d", "kind": "edit", "version": version})
        told = await taken(page)
        assert len(told) == WAITING + 1
        assert told[-1] is CLOSE
        assert CLOSE not in told[:-1]

    within(work)


def test_a_page_on_two_designs() -> None:
    """It hears of both, of what is everybody's once, and of one alone once the other is closed."""

    async def work(hub: Hub) -> None:
        page = hub.open(["one", "two"])
        for design in ("one", "two", "three"):
            hub.hear({"design": design, "kind": "edit", "version": 2})
        hub.alive(False)
        assert [(n["kind"], n.get("design")) for n in await taken(page)] == [
            ("edit", "one"),
            ("edit", "two"),
            ("store", None),
        ]
        assert hub.open_pages == 1
        hub.close(["one"], page)
        for design in ("one", "two"):
            hub.hear({"design": design, "kind": "edit", "version": 3})
        assert [n["design"] for n in await taken(page)] == ["two"]
        hub.close(["two"], page)
        assert hub.open_pages == 0

    within(work)


def test_a_page_not_heard_of_for_long_is_not_here() -> None:
    """It counts as open for fifty seconds after each word of it, and no longer."""
    now = [0.0]

    async def work() -> None:
        hub = Hub(lambda: now[0])
        hub.bind(asyncio.get_running_loop())
        for at, tab in ((0.0, "t"), (40.0, "u")):
            now[0] = at
            hub.hear({"design": "d", "kind": "here", "tab": tab, "who": tab, "stage": "reach"})
            await asyncio.sleep(0)
        for at, who in ((HERE_LASTS_S, ["t", "u"]), (HERE_LASTS_S + 1, ["u"]), (40.0 + HERE_LASTS_S + 1, [])):
            now[0] = at
            assert [p["who"] for p in hub.here("d")] == who

    asyncio.run(work())
