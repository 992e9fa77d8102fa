"""The routes of each box as the kernel takes them: a table a VRF, rules that say which table a packet is looked up in."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_address, ip_network
from typing import Any

from anabasis.design.devices import Endpoint, Outside
from anabasis.design.notation import looks_like_address
from anabasis.packets.lab import Interface, Lab, bare, holds, network_of
from anabasis.packets.meaning import prefixes_of

FIRST_TABLE = 101
POLICY, ENTERED, SENT = 100, 1000, 2000
"""Priorities of rules: policy routes, packets that came in, packets the box sends itself."""


@dataclass(frozen=True)
class Way:
    """One route of a table."""

    to: str
    dev: str
    """Empty = it is discarded."""
    via: str
    trust: tuple[int, int]
    """(preference, metric); lower wins, and what is connected on a tie."""

    def command(self, table: int) -> str:
        """Return the command that adds it."""
        family = "-6 " if ":" in self.to else ""
        if not self.dev:
            return f"{family}route replace blackhole {self.to} table {table}"
        hop = f"via {self.via} " if self.via else ""
        return (
            f"{family}route replace {self.to} {hop}dev {self.dev} onlink table {table}"
            if hop
            else f"{family}route replace {self.to} dev {self.dev} table {table}"
        )


class Tables:
    """Routes and rules of one box."""

    def __init__(self, lab: Lab, device: Any) -> None:
        self.lab, self.device = lab, device
        self.interfaces = lab.of(device.name)
        vrfs = getattr(device, "vrfs", [])
        self.names = list(dict.fromkeys(["main", *(v.name for v in vrfs), *(i.vrf for i in self.interfaces)]))
        self.static = {v.name: v.routes for v in vrfs}
        if isinstance(device, Outside):
            self.static["main"] = [*device.routes, *self.static.get("main", [])]
        self.ways = {name: self._table(name) for name in self.names}
        for name in self.names:
            self._leaked(name)

    def commands(self) -> Iterator[str]:
        """Yield what `ip -batch` is to do, interfaces being up already."""
        for k, name in enumerate(self.names):
            yield from (w.command(FIRST_TABLE + k) for w in self.ways[name].values())
        for family in ("", "-6 "):
            yield from self._policies(family)
            for i in self.interfaces:
                table = FIRST_TABLE + self.names.index(i.vrf)
                yield f"{family}rule add pref {ENTERED} iif {i.dev} lookup {table}"
                if i.dev != "lo":
                    yield f"{family}rule add pref {ENTERED + 1} iif {i.dev} blackhole"
                for a in i.addresses:
                    if (":" in a) == bool(family):
                        yield f"{family}rule add pref {SENT} from {bare(a)} lookup {table}"
            yield f"{family}rule add pref {SENT + 1} lookup {FIRST_TABLE}"

    def _table(self, vrf: str) -> dict[str, Way]:
        best: dict[str, Way] = {}

        def take(way: Way) -> None:
            held = best.get(way.to)
            if held is None or way.trust < held.trust:
                best[way.to] = way

        trusts = getattr(self.device, "preferences", None)
        mine = [i for i in self.interfaces if i.vrf == vrf]
        for i in mine:
            for a in i.addresses:
                take(Way(str(network_of(a)), i.dev, "", (trusts.connected if trusts else 0, -1)))
        if isinstance(self.device, Endpoint):
            own = {bare(a) for i in mine for a in i.addresses}
            for gateway in (g for g in self._gateways() if g not in own):
                for i in mine:
                    if any(holds(str(network_of(a)), gateway) for a in i.addresses):
                        take(Way("::/0" if ":" in gateway else "0.0.0.0/0", i.dev, gateway, (10, 0)))
        for route in self.static.get(vrf, []):
            if route.enabled and not route.vrf and not route.steers:
                trust = route.preference if route.preference is not None else (trusts.static if trusts else 10)
                for to in self._prefixes(route.to, route.via):
                    hop = self._hop(route, mine, best)
                    if hop is not None:
                        take(Way(to, *hop, (trust, route.metric)))
        for device, table, to, via, name in self.lab.given.learnt:
            dev = next((i.dev for i in mine if i.name == name), None)
            if device == self.device.name and table == vrf and dev is not None:
                take(Way(to, dev, via, (trusts.ospf if trusts else 30, 0)))
        return best

    def leads_to(self, vrf: str, other: str) -> bool:
        """Tell whether some route of a VRF leads into another, straight."""
        return vrf == other or any(r.vrf == other and r.enabled for r in self.static.get(vrf, []))

    def _gateways(self) -> list[str]:
        held = self.lab.given.hosts.get(self.device.name)
        if held is not None:
            return list(held[1])
        said = self.device.gateway
        return [] if said in (None, "none") else [said] if isinstance(said, str) else list(said)

    def _prefixes(self, to: str, via: str | None) -> Iterator[str]:
        if looks_like_address(to):
            yield str(ip_network(to))
            return
        for version, spans in (self.lab.words.addresses([to]) or {}).items():
            if via is None or ip_address(via).version == version:
                for low, high in spans:
                    yield from prefixes_of(version, low, high)

    def _hop(self, route: Any, mine: list[Interface], known: dict[str, Way]) -> tuple[str, str] | None:
        """Return (device, next hop) of a route; None where it leads nowhere now. A discarded one has no device."""
        if route.discard:
            return "", ""
        if route.interface:
            dev = next((i.dev for i in mine if i.name == route.interface), None)
            return (dev, route.via or "") if dev is not None else None
        own = {bare(a) for i in mine for a in i.addresses}
        if not route.via or route.via in own:
            return None
        for i in mine:
            if i.dev != "lo" and any(holds(str(network_of(a)), route.via) for a in i.addresses):
                return i.dev, route.via
        if route.recursive:
            near = [w for w in known.values() if w.dev and w.via and holds(w.to, route.via)]
            best = max(near, key=lambda w: ip_network(w.to).prefixlen, default=None)
            return (best.dev, best.via) if best is not None else None
        return None

    def _leaked(self, vrf: str) -> None:
        """Write into a table what routes into another VRF lead to: what that table holds within the prefix, and what it has for all of it."""
        for route in self.static.get(vrf, []):
            if not route.enabled or not route.vrf or route.vrf not in self.ways:
                continue
            for to in self._prefixes(route.to, None):
                net, other = _net(to), self.ways[route.vrf]
                nets: dict[str, Any] = {w: ip_network(w) for w in other}
                same = {w: n for w, n in nets.items() if n.version == net.version}
                over = max(
                    (w for w, n in same.items() if n.supernet_of(net)), key=lambda w: same[w].prefixlen, default=None
                )
                if over is not None:
                    self.ways[vrf].setdefault(to, Way(to, other[over].dev, other[over].via, (10, route.metric)))
                for w, n in same.items():
                    if n.subnet_of(net) and n != net:
                        self.ways[vrf].setdefault(w, other[w])

    def _policies(self, family: str) -> Iterator[str]:
        """Yield the rules of policy routes: tried before the table, in their order."""
        version, priority = 6 if family else 4, POLICY
        for k, name in enumerate(self.names):
            mine = [i for i in self.interfaces if i.vrf == name]
            for n, route in enumerate(r for r in self.static.get(name, []) if r.steers and r.enabled):
                hop = self._hop(route, mine, self.ways[name])
                table = FIRST_TABLE + 100 + 50 * k + n
                if hop is None:
                    continue
                for to in self._prefixes(route.to, route.via):
                    if (":" in to) == bool(family):
                        yield Way(to, *hop, (0, 0)).command(table)
                spans = self.lab.words.addresses(route.sources) if route.sources else None
                froms = (
                    [""]
                    if spans is None
                    else [f"from {p} " for low, high in spans[version] for p in prefixes_of(version, low, high)]
                )
                said = self.lab.words.services(route.services) if route.services else None
                ports = [""] if said is None else [_ports(*s) for s in said]
                entered = [i.dev for i in mine if not route.entered or i.name in route.entered]
                for dev in entered:
                    for source in froms:
                        for service in ports:
                            priority += 1
                            yield f"{family}rule add pref {priority} {source}iif {dev} {service}lookup {table}"


def _net(text: str) -> Any:
    return ip_network(text)


def _ports(protocol: int, low: int, high: int) -> str:
    ports = f"dport {low}-{high} " if (low, high) != (0, 65535) and protocol in (6, 17) else ""
    return f"ipproto {protocol} {ports}"
