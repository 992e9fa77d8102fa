"""The name test of a host: does it know a name server, does it reach one, is it answered? (docs/semantics.md, "DHCP and plugging in")."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anabasis.errors import UnknownPlace
from anabasis.facts import Cause, Layer, Wrong, because
from anabasis.site import Place, Site, find_place
from anabasis.trace import walk

DNS = (17, 53)


@dataclass(frozen=True)
class NameTest:
    """What became of it."""

    server: str | None
    """The first server that answers; None where none does."""
    cause: Cause | None
    """Why none answers; None where one does."""


def name_test(site: Site, host: Place, servers: Sequence[str], item: str) -> NameTest:
    """Ask each server in turn on udp/53, by the walk. `item`: the pointer of what tells the host of them."""
    first: Cause | None = None
    for text in servers:
        try:
            target = find_place(site, text).of(host.address.version)
        except UnknownPlace:
            target = None
        if target is None:
            first = first or because(Layer.NAME, Wrong.NAME_NOBODY, f"{item}/dns", item, address=text)
            continue
        went = walk(site, host, target, DNS)
        if went.cause is None:
            return NameTest(text, None)
        first = first or because(Layer.NAME, Wrong.NAME_LOST, f"{item}/dns", under=went.cause, address=text)
    return NameTest(None, first or because(Layer.NAME, Wrong.NAME_UNKNOWN, f"{item}/dns", item))
