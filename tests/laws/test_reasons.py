"""Ports, bundles, interfaces and routes, in sites with and without a fault: what does not work says why, what works says nothing."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.errors import InputRefused
from anabasis.site import Site
from anabasis.wording import Reasoned, say
from tests.counts import count
from tests.judging import base_of, some_fault


def _things(site: Site) -> Iterator[Reasoned]:
    for port in site.segments.fabric.ports.values():
        yield port
        yield from port.members
    yield from site.net.interfaces
    for table in site.net.tables.values():
        yield from table.routes


def _sites(seed: int) -> Iterator[Site]:
    base = base_of(seed)
    yield base.climb.site
    for turn in range(3):
        fault = some_fault(seed, turn)
        if fault is not None:
            with suppress(InputRefused):  # a document may not say it at all
                yield Climb(apply(base.tree, fault.edit)[1]).site


def _judged(site: Site) -> tuple[int, int]:
    """Hold the law for a site; how many things are down in it, and how many wait."""
    things = list(_things(site))
    for thing in things:
        assert bool(thing.reason) == (thing.waits or not thing.up), thing
        assert thing.reason == say(thing.cause) or thing.waits
    return sum(not t.up for t in things), sum(t.waits for t in things)


def test_what_does_not_work_says_why() -> None:
    """A sentence where there is a cause, and of that cause; none where there is none."""
    assert sum(_judged(site)[0] for seed in range(count(300, 12)) for site in _sites(seed)) > 0


def test_what_waits_to_be_plugged_in_works_and_says_so(demo: Loaded) -> None:
    """The lab's gateway with nothing in the only port of its VLAN: for reach it is there."""
    lab = demo.raw["cables"].index(["lab-sw:5", "lab-server:1"])
    site = Climb(apply(demo.raw, [{"op": "remove", "path": f"/cables/{lab}"}])[1]).site
    down, waiting = _judged(site)
    assert (down > 0, waiting > 0) == (True, True)
    gateway = next(i for i in site.net.interfaces if (i.device, i.name) == ("lab-sw", "vlan170"))
    assert (gateway.waits, gateway.up, gateway.reason) == (True, True, "comes up when something is plugged in")
