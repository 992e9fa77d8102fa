"""A segment in one go: from a name and a purpose to VLAN, tags, interface, zone, leases, translation, rules and expectations, as one edit."""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from ipaddress import ip_network

import jsonpointer

from anabasis.design.devices import Firewall, Outside, Switch
from anabasis.design.document import Design
from anabasis.design.edits import Patch, Tree, difference, patched
from anabasis.design.files import parse_design
from anabasis.design.new_vlan import NewVlan, new_vlan, suggest_subnet
from anabasis.design.notation import Network, end_asked, is_private, parse_prefix
from anabasis.design.references import mode_of, unit_names
from anabasis.design.renaming import check_name
from anabasis.design.targets import interfaces_of
from anabasis.design.uplinks import uplinks
from anabasis.design.vlans import Purpose
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem

PURPOSES = {
    "inside": "for people and things of the house: a gateway, leases, a way out for the web",
    "visitors": "for strangers: the outside, names and leases, and nothing inside",
    "switched": "switched only: no subnet and no gateway, on purpose",
    "transit": "between two routing boxes: a small subnet, no leases",
}
WAY_OUT = ["http", "https", "dns", "ntp"]
"""What a new segment may ask of the outside to begin with."""


@dataclass(frozen=True)
class NewSegment:
    """What a person decides; all else follows from the purpose and the site's pattern."""

    name: str
    purpose: Purpose
    vlan: int
    subnet: str | None = None
    """Left out = by the site's pattern."""
    firewall: str | None = None
    port: str | None = None
    """The routed port or bundle of the firewall that gets the subinterface."""
    zone: str | None = None
    """An existing zone, or the name of a new one; left out = a new one of the segment's name."""
    ports: list[str] = field(default_factory=list)
    """Ports whose hosts stand in it, as device:port."""
    way_out: bool = True
    """Whether its hosts may ask the outside for what a house asks for: a rule, and a translation where one is needed."""


def new_segment(raw: Tree, wanted: NewSegment) -> Patch:
    """Return the one edit that makes it. Raises InputRefused where something is missing or taken, UnknownPlace where a name names nothing."""
    raw, before = _with_routed_port(raw, wanted), raw
    design = parse_design(raw)
    _check(design, wanted)
    gateway = _gateway(wanted)
    subnet = _subnet(design, wanted)
    switches = list(dict.fromkeys(end_asked(p)[0] for p in wanted.ports))
    carrying = uplinks(design, *end_asked(gateway), switches) if gateway else []
    zone = (wanted.zone or wanted.name) if gateway else None
    tree: Tree = copy.deepcopy(raw)
    existing = _add_zone(tree, wanted, zone) if zone else True
    text = str(subnet) if subnet else None
    plan = NewVlan(wanted.vlan, wanted.name, text, carrying, wanted.ports, gateway, zone)
    tree = patched(tree, new_vlan(tree, plan))
    next(v for v in tree["vlans"] if v["id"] == wanted.vlan)["purpose"] = wanted.purpose
    for place in wanted.ports:
        _, port = port_entry(tree, *end_asked(place))
        port.setdefault("note", f"For {wanted.name}")
    if gateway and subnet and zone:
        _Dressing(tree, design, wanted, zone, existing, subnet).put_on()
    return difference(before, tree)


def _with_routed_port(raw: Tree, wanted: NewSegment) -> Tree:
    """Return the document with the firewall's port routed, where it says nothing yet: its first subinterface goes onto a bare port."""
    if wanted.purpose == "switched" or not wanted.firewall or not wanted.port:
        return raw
    tree: Tree = copy.deepcopy(raw)
    _, port = port_entry(tree, wanted.firewall, wanted.port)
    if "mode" not in port and not set(port) - {"name", "note", "enabled", "speed_mbps", "protocol", "min_links"}:
        port["mode"] = "routed"
    return tree


def _check(design: Design, wanted: NewSegment) -> None:
    """Say at once what is taken or badly written, before anything is made of it."""
    check_name(wanted.name)
    for vlan in design.vlans:
        if vlan.name == wanted.name:
            raise InputRefused([Problem("/name", f"VLAN {vlan.id} is called that", repr(wanted.name), "another name")])
        if vlan.id == wanted.vlan:
            raise InputRefused([Problem("/vlan", f"this number is that of {vlan.name}", str(vlan.id), "a free number")])


def _gateway(wanted: NewSegment) -> str | None:
    if wanted.purpose == "switched":
        return None
    if not wanted.firewall or not wanted.port:
        missing = "firewall" if not wanted.firewall else "port"
        raise InputRefused([Problem(f"/{missing}", "a segment with a gateway needs a firewall and its port")])
    return f"{wanted.firewall}:{wanted.port}"


def _subnet(design: Design, wanted: NewSegment) -> Network | None:
    if wanted.purpose == "switched":
        return None
    text = wanted.subnet or suggest_subnet(design, wanted.vlan)
    if text is None:
        raise InputRefused(
            [
                Problem(
                    "/subnet", "the site's pattern gives this VLAN no subnet", allowed="a prefix such as 10.64.125.0/24"
                )
            ]
        )
    try:
        subnet = parse_prefix(text)
    except ValueError as error:
        raise InputRefused([Problem("/subnet", "badly written", repr(text), str(error))]) from None
    for vlan in design.vlans:
        for known in map(parse_prefix, vlan.subnets):
            if known.version == subnet.version and known.overlaps(subnet):
                raise InputRefused(
                    [Problem("/subnet", f"VLAN {vlan.id} ({vlan.name}) has {known} already", repr(text))]
                )
    return subnet


def _add_zone(tree: Tree, wanted: NewSegment, zone: str) -> bool:
    """Add the zone where it is new; return whether it was there."""
    _, firewall = device_entry(tree, wanted.firewall or "")
    known = any(z["name"] == zone for z in firewall.get("zones", []))
    if not known:
        firewall.setdefault("zones", []).append({"name": zone, "kind": "routed"})
    return known


@dataclass(frozen=True)
class SegmentOptions:
    """What a new segment can be made of."""

    purposes: dict[str, str]
    """Each with what it brings along."""
    firewalls: dict[str, list[str]]
    """The routed ports and bundles with subinterfaces of each firewall, those that lead to switches."""
    zones: dict[str, list[str]]
    """The routed zones of each firewall."""
    ports: list[str]
    """Ports of switches that a host could stand on, as device:port."""
    vlan: int
    """A free number, in the steps of the plan."""


def segment_options(design: Design) -> SegmentOptions:
    """Return the choices for a new segment."""
    firewalls: dict[str, list[str]] = {}
    zones: dict[str, list[str]] = {}
    ports: list[str] = []
    for device in design.devices:
        if isinstance(device, Firewall):
            bases = [*device.ports, *device.lags]
            tagged = [p.name for p in bases if p.subinterfaces and mode_of(p, device) == "routed"]
            firewalls[device.name] = [*tagged, *_bare(design, device)]
            zones[device.name] = [z.name for z in device.zones if z.kind == "routed"]
        elif isinstance(device, Switch):
            able = [p for p in device.ports if mode_of(p, device) == "bridged" and len(p.member_of) < 2 + len(p.tagged)]
            ports += [f"{device.name}:{p.name}" for p in able if not p.tagged or p.untagged]
    taken = {v.id for v in design.vlans}
    start = max((v.id for v in design.vlans if v.id < 256), default=0)
    free = next(n for n in (*range(start - start % 10 + 10, 256, 10), *range(2, 4095)) if n not in taken)
    return SegmentOptions(PURPOSES, firewalls, zones, ports, free)


def _bare(design: Design, firewall: Firewall) -> list[str]:
    """Return the ports and bundles of a firewall that say nothing yet and are cabled to a box that bridges: a first subinterface fits there."""
    boxes = {box: d for d in design.devices for box in unit_names(d)}
    leads: set[str] = set()
    for cable in design.cables:
        ends = [end_asked(e) for e in cable]
        for near, far in (ends, ends[::-1]):
            if boxes[near[0]] is firewall and isinstance(boxes[far[0]], Switch):
                leads.add(near[1])
    bundled = {p.lag for p in firewall.ports if p.name in leads and p.lag}
    bare = [
        p.name
        for p in firewall.ports
        if p.name in leads and p.mode in (None, "routed") and not p.addresses and not p.subinterfaces
    ]
    return bare + [
        x.name
        for x in firewall.lags
        if x.name in bundled and not x.addresses and not x.subinterfaces and x.mode in (None, "routed")
    ]


@dataclass(frozen=True)
class _Dressing:
    """What goes onto the bare VLAN and interface: answers, leases, translation, rules, expectations."""

    tree: Tree
    design: Design
    wanted: NewSegment
    zone: str
    existing: bool
    subnet: Network

    def put_on(self) -> None:
        _, firewall = device_entry(self.tree, self.wanted.firewall or "")
        outside = self._outside_zone()
        self._answers(firewall)
        if self.wanted.purpose in ("inside", "visitors"):
            self._lease(firewall)
            if outside and self.wanted.way_out:
                self._way_out(firewall, outside)
        if self.wanted.purpose == "visitors":
            self._keep_out(firewall)
            self._expectations()

    def _answers(self, firewall: Tree) -> None:
        """The interface answers ping, and names where its leases send clients to it; only to themselves."""
        names = self.wanted.purpose in ("inside", "visitors") and str(self.subnet[1]) in self._dns()
        services = ["ping", "dns"] if names else ["ping"]
        name = self._free(f"{self.wanted.name}-{'basics' if names else 'ping'}", firewall.get("answers", []))
        entry = {"name": name, "services": services, "sources": [str(self.subnet)]}
        firewall.setdefault("answers", []).append(entry)
        self._subinterface(firewall)["answers"] = name

    def _subinterface(self, firewall: Tree) -> Tree:
        ports = [*firewall.get("ports", []), *firewall.get("lags", [])]
        port: Tree = next(p for p in ports if p["name"] == self.wanted.port)
        found: Tree = next(s for s in port["subinterfaces"] if s["tag"] == self.wanted.vlan)
        return found

    def _lease(self, firewall: Tree) -> None:
        """Hand out the subnet but its first nineteen addresses and its last five, as far as it has so many."""
        if self.subnet.version != 4 or self.subnet.num_addresses < 8:
            return
        spare = 20 if self.subnet.num_addresses > 64 else 2
        top = -6 if self.subnet.num_addresses > 64 else -2
        gateway = str(self.subnet[1])
        lease = 3600 if self.wanted.purpose == "visitors" else 86400
        entry: Tree = {"interface": f"{self.wanted.port}.{self.wanted.vlan}", "mode": "server"}
        entry |= {
            "ranges": [f"{self.subnet[spare]}-{self.subnet[top]}"],
            "gateway": gateway,
            "dns": self._dns(),
            "lease_s": lease,
        }
        firewall.setdefault("dhcp", []).append(entry)

    def _dns(self) -> list[str]:
        """Whom the rest of the zone asks; where nobody is known to be asked, and for visitors, the box itself: no rule lets them to others."""
        _, firewall = device_entry(self.tree, self.wanted.firewall or "")
        zones = {
            name: jsonpointer.resolve_pointer(firewall, at).get("zone") for name, at in interfaces_of(firewall, "")
        }
        pools = [] if self.wanted.purpose == "visitors" else firewall.get("dhcp", [])
        known = [list(p["dns"]) for p in pools if p.get("dns") and zones.get(p["interface"]) == self.zone]
        return [*known, [str(self.subnet[1])]][0]

    def _outside_zone(self) -> str | None:
        """Return the zone by which the default route leaves."""
        device = next(d for d in self.design.devices if d.name == self.wanted.firewall)
        if not isinstance(device, Firewall):
            return None
        hops = [r.via for v in device.vrfs for r in v.routes if r.via and ip_network(r.to).prefixlen == 0]
        interfaces = [*device.ports, *device.lags, *(s for p in (*device.ports, *device.lags) for s in p.subinterfaces)]
        for hop in hops:
            for i in (*interfaces, *device.vlan_interfaces):
                if any(_near(hop, a) for a in i.addresses):
                    return i.zone
        return None

    def _way_out(self, firewall: Tree, outside: str) -> None:
        if not self.existing or self.wanted.purpose == "visitors":
            name = self._free(f"{self.wanted.name}-out", firewall.get("rules", []))
            rule = {"name": name, "from": [self.zone], "to": [outside], "services": WAY_OUT, "action": "permit"}
            firewall.setdefault("rules", []).append(rule | {"sources": [str(self.subnet)]})
        if self._goes_out(firewall, outside) and self._needs_hiding() and not self._hidden(firewall, outside):
            name = self._free(f"hide-{self.wanted.name}", firewall.get("nat", []))
            entry = {"name": name, "from": [self.zone], "to": [outside], "sources": [str(self.subnet)]}
            firewall.setdefault("nat", []).append(entry | {"source_to": "interface"})

    def _goes_out(self, firewall: Tree, outside: str) -> bool:
        """Tell whether some rule lets the zone out: without one there is nothing to hide."""
        return any(
            r["action"] == "permit"
            and r.get("enabled", True)
            and bool({self.zone, "any"} & set(r["from"]))
            and bool({outside, "any"} & set(r["to"]))
            for r in firewall.get("rules", [])
        )

    def _needs_hiding(self) -> bool:
        refusing = any(isinstance(d, Outside) and not d.accepts_private for d in self.design.devices)
        return refusing and is_private(self.subnet[0])

    def _hidden(self, firewall: Tree, outside: str) -> bool:
        """Tell whether a translation to the outside covers the subnet already."""
        sets = {s.name: s.members for s in self.design.addresses}
        for entry in firewall.get("nat", []):
            zones = entry.get("from", ["any"]), entry.get("to", ["any"])
            speaks = (self.zone in zones[0] or "any" in zones[0]) and (outside in zones[1] or "any" in zones[1])
            terms = [m for t in entry.get("sources", ["any"]) for m in sets.get(t, [t])]
            if speaks and entry.get("source_to") and any(t == "any" or _holds(t, self.subnet) for t in terms):
                return True
        return False

    def _keep_out(self, firewall: Tree) -> None:
        """Stand first: nothing below lets visitors in."""
        inside = [
            str(n)
            for v in self.design.vlans
            for n in map(parse_prefix, v.subnets)
            if n.version == 4 and is_private(n[0])
        ]
        known = next((s.name for s in self.design.addresses if inside and _covers(s.members, inside)), None)
        name = self._free(f"{self.wanted.name}-stay-outside", firewall.get("rules", []))
        rule: Tree = {"name": name, "from": [self.zone], "to": ["any"]}
        rule |= {"destinations": [known] if known else inside} if inside else {}
        firewall.setdefault("rules", []).insert(0, rule | {"action": "drop", "log": True})

    def _expectations(self) -> None:
        """Visitors reach the outside and nothing inside."""
        kept = self.tree.setdefault("expectations", [])
        outsides = [d for d in self.design.devices if isinstance(d, Outside) and "0.0.0.0/0" in d.prefixes]
        for device in outsides if self.wanted.way_out and self._outside_zone() else []:
            kept.append({"name": f"{self.wanted.name} reach {device.name}", "from": self.wanted.name, "to": device.name, "services": ["https"], "expect": "open"})  # fmt: skip
        for vlan in self.design.vlans:
            if vlan.subnets and vlan.purpose not in ("visitors", "transit"):
                kept.append({"name": f"{self.wanted.name} never touch {vlan.name}", "from": self.wanted.name, "to": vlan.name, "services": ["any"], "expect": "closed"})  # fmt: skip

    @staticmethod
    def _free(name: str, entries: list[Tree]) -> str:
        """Return a name nobody has yet."""
        taken = {e["name"] for e in entries}
        return next(n for n in (name, *(f"{name}-{k}" for k in range(2, 1000))) if n not in taken)


def _near(hop: str, address: str) -> bool:
    """Tell whether a next hop lies in the subnet of an interface address."""
    subnet = ip_network(address, strict=False)
    return ip_network(hop).version == subnet.version and ip_network(hop).subnet_of(subnet)  # type: ignore[arg-type]


def _holds(term: str, subnet: Network) -> bool:
    try:
        wide = parse_prefix(term)
    except ValueError:
        return False
    return wide.version == subnet.version and subnet.subnet_of(wide)  # type: ignore[arg-type]


def _covers(members: list[str], subnets: list[str]) -> bool:
    return all(any(_holds(m, parse_prefix(n)) for m in members) for n in subnets)
