"""What tests show on a site, sound or with a fault in it: laptops stand at every place at once, once with addresses by hand and once with leases."""

from __future__ import annotations

from collections.abc import Sequence
from ipaddress import ip_address

from anabasis.design import Patch, Tree, parse_design
from anabasis.design.together import together
from anabasis.errors import UnknownPlace
from anabasis.fabric import ALL_WELL, forwarding_units
from anabasis.facts import NOTHING_SHOWN, Do, Looks, SheetTest, Shown
from anabasis.failover import elected
from anabasis.routing import HostGroup
from anabasis.site import Place, Site, find_place, host_place
from anabasis.testing.stands import Stand, with_laptops
from anabasis.trace import Walk, walk
from anabasis.tunnels import build_site
from anabasis.verdicts import one_service


class Scene:
    """A site with laptops at all places to stand at."""

    def __init__(self, tree: Tree, stands: Sequence[Stand]) -> None:
        """Raises InputRefused where the document is none."""
        self.tree, self.stands = tree, list(stands)
        self.by_place = {(s.at, s.tag): s for s in self.stands}
        self._known: dict[bool, tuple[Tree, Site]] = {}
        self._asking = self.stands
        self.by_hand, self.leased = (self._site(tree, lease) for lease in (False, True))
        served = {device for (device, _), h in self.leased.handed.items() if h.leased is not None}
        segments = {s.segment for s in self.stands if s.host in served}
        self._asking = [s for s in self.stands if s.segment in segments]
        """Where a lease is to be had at all: nobody waits for one elsewhere."""
        self._known.pop(True)
        self.leased = self._site(tree, True)

    def _site(self, tree: Tree, lease: bool) -> Site:
        whole = with_laptops(tree, self._asking if lease else self.stands, lease)
        held = self._known.get(lease)
        known = held[1] if held is not None else None
        design = parse_design(whole, known=(held[0], held[1].design) if held is not None else None)
        site = build_site(design, elected(design, ALL_WELL, known), known)
        self._known.setdefault(lease, (whole, site))
        return site

    def shows(self, tests: Sequence[SheetTest], *edits: Patch) -> list[Shown]:
        """Return what each test shows after some edits, each written for the document as it is. Cost: two sites, and a walk a test.

        Raises InputRefused where the edits do not go together, or lead to no design.
        """
        tree = together(self.tree, edits)
        by_hand = self._site(tree, False) if edits else self.by_hand
        asked = any(t.do == Do.LEASE for t in tests)
        leased = (self._site(tree, True) if edits else self.leased) if asked else by_hand
        walked: dict[tuple[str, str, str, str], Shown] = {}
        out: list[Shown] = []
        for test in tests:
            key = test.at, test.target, test.service, test.host
            if test.do in (Do.PING, Do.CONNECT):
                if key not in walked:
                    walked[key] = _heard(self.walked(by_hand, test))
                out.append(walked[key])
            else:
                out.append(self._state(leased if test.do == Do.LEASE else by_hand, test))
        return out

    def walked(self, site: Site, test: SheetTest) -> Walk | None:
        """Return what becomes of the packet of a test; None where nobody is there to send it, or to have it."""
        stand = self.by_place.get((test.at, test.tag))
        source = _host(site, stand.host if stand else test.at, test.target)
        target = _target(site, test)
        if source is None or target is None:
            return None
        return walk(site, source, target, one_service(site, test.service, {source.address.version}))

    def _state(self, site: Site, test: SheetTest) -> Shown:
        match test.do:
            case Do.LINK:
                box, _, port = test.at.partition(":")
                line = site.fabric.ports.get((box, port))
                return Shown("up" if line is not None and line.up else "down")
            case Do.LEASE:
                return self._lease(site, test)
            case _:
                return _looked(site, test)

    def _lease(self, site: Site, test: SheetTest) -> Shown:
        stand = self.by_place.get((test.at, test.tag))
        name = stand.host if stand else test.at
        for (device, _), handed in site.handed.items():
            if device == name:
                if handed.leased is None:
                    return NOTHING_SHOWN
                leased = handed.leased
                gateway = str(leased.gateway) if leased.gateway is not None else ""
                return Shown("address", str(leased.address.network), gateway, "" if leased.assumed else leased.server)
        return NOTHING_SHOWN


def _host(site: Site, name: str, target: str) -> Place | None:
    """Return a host as the sender of packets to an address."""
    version = ip_address(target).version
    group = _group(site, name, version)
    return host_place(site, group) if group is not None else None


def _group(site: Site, name: str, version: int) -> HostGroup | None:
    return next((g for g in site.net.hosts if name in (g.endpoint, g.behind) and g.subnet.version == version), None)


def _target(site: Site, test: SheetTest) -> Place | None:
    address = ip_address(test.target)
    if test.host:
        group = _group(site, test.host, address.version)
        return host_place(site, group) if group is not None and group.first == address else None
    try:
        return find_place(site, test.target).of(address.version)
    except UnknownPlace:
        return None


def _heard(went: Walk | None) -> Shown:
    return Shown("answer") if went is not None and went.outcome != "stopped" else NOTHING_SHOWN


def _looked(site: Site, test: SheetTest) -> Shown:
    match test.looks:
        case Looks.INTERFACE:
            held = site.net.by_name.get((test.at, test.target))
            return Shown("up" if held is not None and held.up else "down")
        case Looks.PORT:
            line = site.fabric.ports.get((test.at, test.target))
            if line is None or not line.up:
                return Shown("down")
            live = sum(m.cause is None for m in line.members)
            return Shown("up", detail=str(live) if len(line.members) > 1 else "")
        case Looks.ROUTE:
            vrf, _, to = test.target.rpartition(" ")
            table = site.net.tables.get((test.at, vrf))
            held_routes = [r for r in (table.routes if table is not None else ()) if str(r.to) == to and r.active]
            hops = sorted({str(r.hop or r.interface or "") for r in held_routes})
            return Shown("up", detail=", ".join(hops)) if held_routes else Shown("down")
        case _:
            device = next((d for d in site.design.devices if d.name == test.at), None)
            active = forwarding_units(device, site.conditions) if device is not None else ()
            return Shown("up", detail=", ".join(active)) if active else Shown("down")
