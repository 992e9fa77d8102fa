"""The routing table of every (device, VRF): local, connected and static routes, each active or not and why (docs/semantics.md, "Hosts")."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from ipaddress import collapse_addresses, ip_network, summarize_address_range
from typing import Literal

from anabasis.design import Design
from anabasis.design.devices import BridgingBox, Device, Outside
from anabasis.design.notation import (
    Address,
    Network,
    looks_like_address,
    parse_address,
    parse_prefix,
    parse_span,
    pointer,
)
from anabasis.design.routes import Preferences, Route
from anabasis.fabric import Segments
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.once import once
from anabasis.routing.interfaces import L3Interface
from anabasis.routing.ospf import Known, Ospf
from anabasis.routing.plans import misaddressed
from anabasis.wording import Reasoned

Resolved = tuple[Address | None, str | None, Cause | None]


Origin = Literal["local", "connected", "static", "ospf", "overlay", "learned", "behind"]
Stands = Literal["in force", "shares", "standby", "waits", "inactive"]
"""What becomes of a route: in force alone, or with equal ones; standing by behind a better one; waiting its turn; not able to serve."""


@dataclass(frozen=True)
class TableRoute(Reasoned):
    """One route of a table."""

    device: str
    vrf: str
    to: Network
    origin: Origin
    """`local` (an address of the box), `connected`, `static`, `ospf` (learnt by it), `overlay` (told by a table of another box on an overlay), `learned` (typed in as learnt by something else), or `behind` (what an outside holds itself)."""
    via: Address | None
    hop: Address | None
    """The next hop on the link: `via`, or what a recursive route resolves it to."""
    interface: str | None
    """The egress interface, once resolved."""
    next_vrf: str | None
    discard: bool
    preference: int
    metric: int
    cause: Cause | None
    """Why it is inactive; None while it is active."""
    pointer: str
    waits: bool = False
    """Its interface comes up when something is plugged in; for reach it counts as active."""
    learnt: str | None = None
    """How it was learnt, where it was: `intra-area`, `inter-area`, `external-1`, `external-2`; on an overlay `prefix` or `host`."""

    @property
    def shares(self) -> bool:
        """Tell whether routes as good as each other share the traffic."""
        return self.origin in ("static", "ospf", "overlay", "learned")

    @property
    def active(self) -> bool:
        """Tell whether it is in force, as far as reach goes."""
        return self.cause is None

    @property
    def blame(self) -> str:
        """Return the item that makes it inactive; its own pointer while it is active."""
        return self.cause.pointers[0] if self.cause is not None else self.pointer

    def as_dict(self) -> dict[str, object]:
        """Return the row for JSON (command-line promise, `routes`)."""
        texts = {k: str(v) if (v := getattr(self, k)) is not None else None for k in ("to", "via", "hop")}
        keys = (
            "device", "vrf", "origin", "learnt", "interface", "next_vrf", "discard", "preference", "metric", "reason", "pointer",
        )  # fmt: skip
        layer = self.cause.layer if self.cause is not None else ""
        state = {"active": self.active and not self.waits, "layer": layer, "blame": self.blame}
        return {**texts, **{k: getattr(self, k) for k in keys}, **state}

    @property
    def goes_to(self) -> str:
        """Return where it leads, in words."""
        if self.discard:
            return "discarded"
        return str(self.via) if self.via else f"VRF {self.next_vrf}" if self.next_vrf else ""

    @property
    def rank(self) -> tuple[int, int, int]:
        """Return what decides between routes to one prefix; lower wins."""
        order = {"local": 0, "connected": 1, "static": 2, "ospf": 3, "overlay": 4, "learned": 5, "behind": 6}[
            self.origin
        ]
        return (self.preference, self.metric, order)


@dataclass(frozen=True)
class Table:
    """All routes of one VRF of one device, sorted by prefix."""

    device: str
    vrf: str
    routes: tuple[TableRoute, ...]
    steering: tuple[TableRoute, ...] = ()
    """Policy routes, in the order they are tried in, before all others; what else they look at is a matter of policy (`policy/steering.py`)."""

    def state_of(self, route: TableRoute) -> Stands:
        """Return how a route stands beside the others to its prefix: `in force`, `shares`, `standby` (a better one is in force), `waits` or `inactive`."""
        if not route.active:
            return "inactive"
        if route in self.steering:
            return "in force"
        alike = [r for r in self.holding(route.to.network_address) if r.active and r.to == route.to]
        best = min(r.rank for r in alike)
        if best < route.rank:
            return "standby"
        if route.waits:
            return "waits"
        return "shares" if route.shares and sum(r.rank == best for r in alike) > 1 else "in force"

    @once
    def _by_length(self) -> dict[tuple[int, int], dict[int, list[TableRoute]]]:
        """Return the routes by (family, bits that an address has behind the prefix), then by the number of the prefix."""
        out: dict[tuple[int, int], dict[int, list[TableRoute]]] = {}
        for r in self.routes:
            rest = r.to.max_prefixlen - r.to.prefixlen
            out.setdefault((r.to.version, rest), {}).setdefault(int(r.to.network_address) >> rest, []).append(r)
        return out

    def holding(self, address: Address) -> list[TableRoute]:
        """Return the routes to prefixes that hold an address."""
        number, version = int(address), address.version
        return [r for (v, rest), of in self._by_length.items() if v == version for r in of.get(number >> rest, ())]


@dataclass(frozen=True)
class Earlier:
    """The tables of another state, and what they were made from."""

    segments: Segments
    interfaces: Mapping[str, Sequence[L3Interface]]
    """Device -> its interfaces."""
    tables: Mapping[tuple[str, str], Table]

    def of(self, device: Device, d: int, own: Sequence[L3Interface], design: Design) -> dict[tuple[str, str], Table]:
        """Return the tables of a device that come out as they were; none where that would have to be worked out.

        They do where device and interfaces are the same, and all routes stand: why one does not may lie anywhere.
        """
        then = self.segments.fabric.design
        if then.addresses != design.addresses or d >= len(then.devices) or then.devices[d] is not device:
            return {}
        if isinstance(device, Outside) or list(map(_counts, own)) != list(map(_counts, self.interfaces[device.name])):
            return {}
        found = {k: t for k, t in self.tables.items() if k[0] == device.name}
        each = (r for t in found.values() for r in (*t.routes, *t.steering))
        return found if all(r.active and r.origin in OWN for r in each) else {}


OWN = ("local", "connected", "static")
"""Origins of routes that nobody else has told."""


def _counts(i: L3Interface) -> tuple[object, ...]:
    """Return what of an interface its device's tables are made from."""
    return i.name, i.vrf, i.cause, i.addresses, i.accepted, i.units, i.waits, i.pointer, i.attachment is None


def build_tables(
    segments: Segments,
    interfaces: list[L3Interface],
    only: set[str] | None = None,
    earlier: Earlier | None = None,
) -> dict[tuple[str, str], Table]:
    """Return (device, VRF) -> table, for every device (or `only` some) with layer-3 interfaces; a switch that does not route uses its own for what it sends itself.

    `earlier`: another state; tables that come out the same are taken over.
    """
    tables: dict[tuple[str, str], Table] = {}
    of_device = defaultdict[str, list[L3Interface]](list)
    for i in interfaces:
        of_device[i.device].append(i)
    for d, device in enumerate(segments.fabric.design.devices):
        if not isinstance(device, BridgingBox | Outside) or (only is not None and device.name not in only):
            continue
        own = of_device[device.name]
        known = earlier.of(device, d, own, segments.fabric.design) if earlier is not None else {}
        if known:
            tables |= known
            continue
        vrfs = [v.name for v in getattr(device, "vrfs", [])]
        for vrf in dict.fromkeys(["main", *vrfs, *(i.vrf for i in own)]):
            inside = [i for i in own if i.vrf == vrf]
            trust = device.preferences if isinstance(device, BridgingBox) else Preferences()
            routes = [r for i in inside for r in _of_interface(i, segments, trust.connected)]
            written = list(_each(segments.fabric.design, _written(device, d, vrf)))
            statics = _Statics(device, vrf, own, routes, written, trust, segments, interfaces)
            before = statics.all(steering=True)
            routes += statics.all()
            if isinstance(device, Outside) and vrf == "main":
                routes += list(_behind(device, d))
            routes.sort(key=in_table)
            tables[device.name, vrf] = Table(device.name, vrf, tuple(routes), tuple(before))
    return tables


def known_of(tables: Mapping[tuple[str, str], Table]) -> dict[tuple[str, str], list[Known]]:
    """Return what each table holds in force that may be told to others: connected and static routes."""
    out: dict[tuple[str, str], list[Known]] = {}
    for key, table in tables.items():
        for r in table.routes:
            if r.active and r.origin in ("connected", "static") and table.state_of(r) in ("in force", "shares"):
                origin: Literal["connected", "static"] = "connected" if r.origin == "connected" else "static"
                out.setdefault(key, []).append(Known(origin, r.to, r.interface, r.hop))
    return out


def with_learnt(
    segments: Segments, tables: Mapping[tuple[str, str], Table], domain: Ospf
) -> dict[tuple[str, str], Table]:
    """Return tables with what routers have learnt in them; a device's trust in OSPF is its own."""
    out = dict(tables)
    for d, device in enumerate(segments.fabric.design.devices):
        for v, vrf in enumerate(getattr(device, "vrfs", [])):
            learnt, table = domain.learnt.get((device.name, vrf.name), ()), tables.get((device.name, vrf.name))
            if not learnt or table is None or not isinstance(device, BridgingBox):
                continue
            at, trust = pointer("devices", d, "vrfs", v, "ospf"), device.preferences.ospf
            more = [
                TableRoute(
                    device.name,
                    vrf.name,
                    x.to,
                    "ospf",
                    hop,
                    hop,
                    name,
                    None,
                    False,
                    trust,
                    x.cost,
                    None,
                    at,
                    learnt=x.kind,
                )
                for x in learnt
                for name, hop in sorted(x.hops, key=str)
            ]
            routes = sorted((*table.routes, *more), key=in_table)
            out[device.name, vrf.name] = replace(table, routes=tuple(routes))
    return out


def in_table(r: TableRoute) -> tuple[object, ...]:
    """Return what sorts routes in a table: by prefix, those in force first, the better first."""
    return r.to.version, int(r.to.network_address), r.to.prefixlen, not r.active, r.rank


def _of_interface(i: L3Interface, segments: Segments, preference: int) -> Iterator[TableRoute]:
    def route(to: Network, origin: Origin) -> TableRoute:
        trust = 0 if origin == "local" else preference
        cause = (
            because(Layer.LINK, Wrong.INTERFACE_DOWN, i.pointer, under=i.cause, interface=i.name) if i.cause else None
        )
        row = (i.device, i.vrf, to, origin, None, None, i.name, None, False, trust, 0, cause, i.pointer)
        return TableRoute(*row, waits=i.waits)

    for own in dict.fromkeys((*(a.ip for a in i.addresses), *i.accepted, *i.units)):
        yield route(ip_network(own), "local")
    for address in i.addresses:
        if address.network.prefixlen < address.max_prefixlen:
            yield route(address.network, "connected")
    if not i.addresses and i.attachment is not None and i.attachment.kind == "outside":
        # An outside without an address of its own stands in the subnets of its segment (docs/semantics.md).
        for subnet in segments.all[segments.of(i.attachment)].subnets:
            yield route(parse_prefix(subnet), "connected")


def _each(design: Design, written: Iterator[tuple[Route, str]]) -> Iterator[tuple[Route, str]]:
    """Yield routes as they are written; of one to an address set, one for each prefix of it that its next hop can be for."""
    sets: dict[str, Sequence[str]] = {s.name: s.members for s in design.addresses}
    for route, at in written:
        if looks_like_address(route.to):
            yield route, at
            continue
        for prefix in prefixes_of(route.to, sets):
            if route.via is None or parse_address(route.via).version == prefix.version:
                yield route.model_copy(update={"to": str(prefix)}), at


def prefixes_of(name: str, sets: Mapping[str, Sequence[str]]) -> list[Network]:
    """Return the prefixes that make up an address set, sets inside it included, each once and none inside another."""
    spans: set[tuple[Address, Address]] = set()
    todo, seen = [name], {name}
    while todo:
        for member in sets.get(todo.pop(), ()):
            if looks_like_address(member):
                spans.add(parse_span(member))
            elif member not in seen:
                seen.add(member)
                todo.append(member)
    found = [n for low, high in spans for n in summarize_address_range(low, high)]
    return [n for v in (4, 6) for n in collapse_addresses(n for n in found if n.version == v)]  # type: ignore[type-var]


def _written(device: Device, d: int, vrf: str) -> Iterator[tuple[Route, str]]:
    if isinstance(device, Outside) and vrf == "main":
        for i, route in enumerate(device.routes):
            yield route, pointer("devices", d, "routes", i)
    for v, entry in enumerate(getattr(device, "vrfs", [])):
        if entry.name == vrf:
            for i, route in enumerate(entry.routes):
                yield route, pointer("devices", d, "vrfs", v, "routes", i)


class _Statics:
    """The static routes of one VRF, resolved in whatever order they lean on each other."""

    def __init__(
        self,
        device: Device,
        vrf: str,
        own: list[L3Interface],
        connected: list[TableRoute],
        written: list[tuple[Route, str]],
        trust: Preferences,
        segments: Segments,
        interfaces: list[L3Interface],
    ) -> None:
        self._segments, self._all = segments, interfaces
        self.device, self.vrf, self.own, self.connected = device, vrf, own, connected
        self.written, self.trust = written, trust
        self._open: set[tuple[str, str]] = set()
        self._known: dict[tuple[str, str], TableRoute] = {}
        """By (pointer, prefix): a route to an address set is several."""
        self._addresses = {a.ip for i in own for a in i.addresses}
        self._near: dict[Address, list[TableRoute]] = {}

    def all(self, steering: bool = False) -> list[TableRoute]:
        """Return the routes of the table, or the policy routes tried before it."""
        return [self._route(route, at) for route, at in self.written if route.steers == steering]

    def _route(self, route: Route, at: str) -> TableRoute:
        key = at, route.to
        if key not in self._known:
            self._open.add(key)
            via = parse_address(route.via) if route.via else None
            hop, interface, cause = self._resolve(route, via, at)
            origin, usual = self._learned(route)
            trust = usual if route.preference is None else route.preference
            goes = (via, hop, interface, route.vrf, route.discard, trust, route.metric)
            to = parse_prefix(route.to)
            how = route.learned.type if route.learned is not None else None
            self._known[key] = TableRoute(self.device.name, self.vrf, to, origin, *goes, cause, at, learnt=how)
            self._open.discard(key)
        return self._known[key]

    def _learned(self, route: Route) -> tuple[Origin, int]:
        """Return where a route comes from, and how far that is trusted."""
        if route.learned is None:
            return "static", self.trust.static
        return ("ospf", self.trust.ospf) if route.learned.by == "ospf" else ("learned", self.trust.learned)

    def _resolve(self, route: Route, via: Address | None, at: str) -> Resolved:
        """Return (next hop, egress interface, why inactive)."""
        if not route.enabled:
            return via, None, because(Layer.ROUTE, Wrong.ROUTE_OFF, f"{at}/enabled")
        if route.discard or route.vrf:
            return None, None, None
        if via is None:
            return None, *self._through(route.interface, at)
        if via.is_unspecified:
            return via, None, because(Layer.ROUTE, Wrong.HOP_ZEROS, f"{at}/via")
        if via in self._addresses:
            return via, None, because(Layer.ROUTE, Wrong.HOP_OWN, f"{at}/via")
        if via not in self._near:
            on_link = [r for r in self.connected if r.origin == "connected" and r.to.version == via.version]
            self._near[via] = [r for r in on_link if via in r.to]
        near = self._near[via]
        if route.interface:
            name, cause = self._through(route.interface, at)
            if cause is not None or any(r.interface == route.interface for r in near):
                return via, name, cause
            values: Values = {"hop": str(via), "interface": route.interface}
            return via, name, because(Layer.ROUTE, Wrong.HOP_OUTSIDE_OF, f"{at}/via", values=values)
        best = max(near, key=lambda r: (r.active, r.to.prefixlen), default=None)
        if best is None and route.recursive:
            return self._recursive(via, at)
        if best is None:
            return via, None, self._outside(via, at)
        if best.active:
            return via, best.interface, None
        values = {"hop": str(via), "interface": best.interface or ""}
        under = best.cause.under if best.cause is not None else None
        return via, best.interface, because(Layer.ROUTE, Wrong.HOP_DOWN, at, under=under, values=values)

    def _outside(self, via: Address, at: str) -> Cause:
        """The next hop is on no link of the VRF: the route is to blame, or the interface that stands in another VRF."""
        apart = next((i for i in self.own if i.vrf != self.vrf and i.subnet_of(via)), None)
        if apart is not None:
            values: Values = {"interface": apart.label, "vrf": apart.vrf, "other": self.vrf, "address": str(via)}
            return because(Layer.ROUTE, Wrong.OTHER_VRF, apart.pointer, values=values)
        for interface in (i for i in self.own if i.vrf == self.vrf):
            wrong = misaddressed(self._segments, interface, via) or self._across(interface, via)
            if wrong is not None:
                return because(Layer.ROUTE, Wrong.HOP_OUTSIDE, f"{at}/via", under=wrong, hop=str(via), vrf=self.vrf)
        return because(Layer.ROUTE, Wrong.HOP_OUTSIDE, f"{at}/via", hop=str(via), vrf=self.vrf)

    def _across(self, interface: L3Interface, via: Address) -> Cause | None:
        """An interface whose link holds the next hop, and that has no address, or one of another subnet."""
        if interface.attachment is None or interface.attachment.index not in self._segments.of_attachment:
            return None
        here = self._segments.of(interface.attachment)
        for other in self._all:
            there = self._segments.of_attachment.get(other.attachment.index) if other.attachment is not None else None
            subnet = other.subnet_of(via)
            if other is interface or there != here or subnet is None or via not in [a.ip for a in other.addresses]:
                continue
            has = ", ".join(str(a) for a in interface.addresses if a.version == via.version)
            wrong = Wrong.ADDRESS_MISTYPED if has else Wrong.ADDRESS_MISSING
            values: Values = {"interface": interface.label, "has": has, "subnet": str(subnet.network)}
            said = values | {"segment": self._segments.all[here].name}
            return because(Layer.GATEWAY, wrong, interface.pointer, other.pointer, values=said)
        return None

    def _recursive(self, via: Address, at: str) -> Resolved:
        """Reach a next hop by the best other static route to it, longest prefix first."""
        written = [(r, a) for r, a in self.written if not r.steers]
        to_it = [(r, a) for r, a in written if (a, r.to) not in self._open and self._covers(r, via)]
        routes = [self._route(r, a) for r, a in to_it]
        best = max(routes, key=lambda r: (r.active, r.to.prefixlen, -r.preference, -r.metric), default=None)
        if best is None or best.next_vrf or best.discard:
            return via, None, because(Layer.ROUTE, Wrong.HOP_UNRESOLVED, f"{at}/via", vrf=self.vrf, hop=str(via))
        if best.cause is not None:
            values: Values = {"hop": str(via), "to": str(best.to)}
            return via, best.interface, because(Layer.ROUTE, Wrong.HOP_INACTIVE, at, under=best.cause, values=values)
        return best.hop or via, best.interface, None

    @staticmethod
    def _covers(route: Route, via: Address) -> bool:
        to = parse_prefix(route.to)
        return to.version == via.version and via in to

    def _through(self, name: str | None, at: str) -> tuple[str | None, Cause | None]:
        interface = next((i for i in self.own if i.name == name), None)
        if interface is None:
            return None, because(Layer.ROUTE, Wrong.NOT_LAYER3, f"{at}/interface", interface=name or "")
        if interface.cause is not None:
            return name, because(Layer.LINK, Wrong.INTERFACE_DOWN, at, under=interface.cause, interface=interface.name)
        return name, None


def _behind(device: Outside, d: int) -> Iterator[TableRoute]:
    for i, prefix in enumerate(device.prefixes):
        row = (None, None, None, None, False, 255, 0, None, pointer("devices", d, "prefixes", i))
        yield TableRoute(device.name, "main", parse_prefix(prefix), "behind", *row)
