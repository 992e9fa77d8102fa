"""Plug in: a laptop on a port. Which VLAN, which segment, who answers its DHCP request, what it gets, what it then reaches.

The laptop is put into the design as a client of its own and the site is computed anew, so every answer is that of the two engines.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from ipaddress import ip_address, ip_network

from anabasis.allpairs import Sweep
from anabasis.design import Design, Tree, parse_design
from anabasis.design.devices import Device
from anabasis.design.notation import end_asked, parse_end, pointer
from anabasis.design.pointers import lies_in
from anabasis.design.ports import association
from anabasis.design.references import places_of, ssid_names, unit_names
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.fabric import UNTAGGED, Attachment, Conditions, forwarding_units, own_line
from anabasis.facts import Cause, HandedOut, Layer, Wrong, because
from anabasis.probe.names import NameTest, name_test
from anabasis.routing import HostGroup
from anabasis.site import Handed, Place, Site, host_place
from anabasis.trace import no_gateway, walk
from anabasis.tunnels import build_site
from anabasis.wording import lease_words, say

LAPTOP = "the laptop"
HTTPS = (6, 443)


@dataclass(frozen=True)
class Plug:
    """What the laptop finds."""

    vlan: int | None
    segment: str | None
    address: str | None
    """What it is handed; None where nobody hands out one."""
    gateway: str | None
    server: str | None
    options: dict[str, str]
    """DNS, NTP, lease time and further options handed out with it."""
    static: str | None
    """Where nobody hands out an address: a free one of the subnet, with which `reaches` is computed."""
    reaches: list[str]
    decided_by: list[str]
    handed: HandedOut | None = None
    stops: Cause | None = None
    """Why it is handed nothing, or of what use what it was handed is not."""
    unreached: Cause | None = None
    """Where it reaches nothing, what stops it."""
    address_v6: str | None = None
    """What it forms of the prefix a router announces there; assumed, as the laptop has no hardware address."""
    gateway_v6: str | None = None
    names: NameTest | None = None
    """Whether a name server that it was told of answers; None where it was handed no address."""

    @property
    def cause(self) -> Cause | None:
        """Return what is wrong first."""
        return self.stops or self.unreached

    @property
    def layer(self) -> Layer | None:
        """Return the layer at which it is handed nothing of use."""
        return self.stops.layer if self.stops is not None else None

    @property
    def assumed(self) -> bool:
        """Tell whether what is handed out stands in no design: a relay's server is somebody else's."""
        return self.handed is not None and self.handed.assumed

    @property
    def reason(self) -> str:
        """Return what it got, and what is wrong with it, as a sentence without its full stop."""
        return lease_words(self.handed, self.stops)

    @property
    def why_not(self) -> str:
        """Return what stops it where it reaches nothing, as a sentence without its full stop."""
        return say(self.unreached)


def plug(known: Site, place: str, tag: int | None = None) -> Plug:
    """Plug a laptop into `device:port` of a site, its frames untagged or in a tag. Raises UnknownPlace where there is no such port."""
    design, conditions = known.design, known.conditions
    box, port = _find(design, place, conditions)
    line = known.fabric.ports.get((box, port))
    if line is None:
        return _stopped(because(Layer.LINK, Wrong.IN_BUNDLE, *_port_item(known, box, port), port=f"{box}:{port}"))
    return _Probe(known, box, port, tag).answer()


def _port_item(site: Site, box: str, port: str) -> list[str]:
    return [m.pointer for p in site.fabric.ports.values() for m in p.members if m.spot == (box, port)]


class _Probe:
    """One laptop on one port."""

    def __init__(self, known: Site, box: str, port: str, tag: int | None) -> None:
        self.known, self.box, self.port, self.tag = known, box, port, tag
        taken = {d.name for d in known.design.devices}
        self.name = next(n for n in (LAPTOP, *(f"{LAPTOP} {k}" for k in range(2, 99))) if n not in taken)
        wireless = port in ssid_names(known.fabric.devices[box])
        self.spot = (box, association(port, self.name) if wireless else port)
        """The port its frames come in by: of an SSID that of its own association."""

    def answer(self) -> Plug:
        """Ask for a lease, and see what is reached with it."""
        site = self._site([], lease=True)
        attachment = next(
            (t for t in site.fabric.attachments if t.device == self.name and t.form == (self.tag or UNTAGGED)), None
        )
        line = site.fabric.ports[self.spot]
        if attachment is None or not line.up:
            cause = line.cause or (own_line(site.fabric, attachment) if attachment is not None else None)
            return _stopped(cause or because(Layer.LINK, Wrong.TAKES_NO_HOST, line.pointer, port=line.label))
        vlan, dropped = self._vlan(site)
        if dropped is not None:
            return _stopped(dropped)
        handed = site.handed[self.name, attachment.name]
        name = self._outer_name(site, attachment)
        if handed.leased is None:
            assert handed.cause is not None
            static = self._static(site, attachment)
            reached = self._reached(self._site([static], lease=False))[0] if static else []
            server = handed.server.label if handed.server is not None and handed.server.mode == "server" else None
            told = Plug(vlan, name, None, None, server, {}, static, reached, [], stops=handed.cause)
            return self._told(told, site)
        return self._leased(site, handed, vlan, name)

    def _leased(self, site: Site, handed: Handed, vlan: int | None, name: str) -> Plug:
        leased = handed.leased
        assert leased is not None
        reached, why = self._reached(site)
        relay = handed.server.label if handed.server is not None and handed.asks else None
        gateway = str(leased.gateway) if leased.gateway is not None else None
        told = Plug(
            vlan,
            name,
            str(leased.address.ip),
            gateway,
            leased.server,
            handed.options,
            None,
            reached,
            [leased.pointer],
            HandedOut(
                leased.server,
                relay,
                str(leased.address.ip),
                leased.assumed,
                len(handed.several) or 1,
                gateway is not None,
            ),
            self._useless(site),
            why,
            names=self._names(site, handed),
        )
        return self._told(told, site)

    def _names(self, site: Site, handed: Handed) -> NameTest | None:
        """Ask the name servers that came with the lease. What an unknown server hands out nobody knows."""
        group = self._group(site)
        host = host_place(site, group) if group is not None else None
        if host is None or handed.leased is None or handed.leased.assumed:
            return None
        servers = [s.strip() for s in handed.options.get("dns", "").split(",") if s.strip()]
        return name_test(site, host, servers, handed.leased.pointer)

    def _useless(self, site: Site) -> Cause | None:
        """Return what is wrong with the gateway it was handed."""
        group = self._group(site)
        if group is None or group.behind:
            return None
        if group.gateway is None:
            return group.cause
        known = site.net.gateways(group.gateway)
        if known or group.attachment is None or site.net.silent_outsides(group.gateway, group.attachment):
            return None
        return no_gateway(site, group, site.segments.all[group.segment])

    def _told(self, plug: Plug, site: Site) -> Plug:
        """Return the answer with what it forms of IPv6, and what decides it: pointers into the design as it is, without the laptop."""
        six = self._group(site, 6)
        if six is not None:
            plug = replace(plug, address_v6=str(six.first), gateway_v6=str(six.gateway) if six.gateway else None)
        places = [p for p in plug.cause.pointers if self._is_known(p)] if plug.cause is not None else []
        return replace(plug, decided_by=places or plug.decided_by)

    def _is_known(self, place: str) -> bool:
        """Tell whether something is of the design, and not of the laptop, which comes last in it."""
        design = self.known.design
        own = pointer("devices", len(design.devices)), pointer("cables", len(design.cables))
        return not any(lies_in(place, item) for item in own)

    def _site(self, addresses: list[str], lease: bool) -> Site:
        laptop = with_laptop(self.known.design, self.name, (self.box, self.port), self.tag, addresses, lease)
        return build_site(laptop, self.known.conditions)

    def _group(self, site: Site, version: int = 4) -> HostGroup | None:
        return next((g for g in site.net.hosts if g.endpoint == self.name and g.subnet.version == version), None)

    def _vlan(self, site: Site) -> tuple[int | None, Cause | None]:
        """Return the VLAN the port puts the laptop's frames into, or why it drops them; (None, None) where no VLAN is in play."""
        port = site.fabric.ports[self.spot]
        if not port.bridges or site.fabric.tables[port.box] is None:
            return None, None
        return site.fabric.classify((port.spot, self.tag or UNTAGGED))

    def _outer_name(self, site: Site, attachment: Attachment) -> str:
        """Return the segment as the design itself calls it, without the laptop."""
        mates = {t.label for t in site.segments.all[site.segments.of(attachment)].attachments if t is not attachment}
        best = max(self.known.segments.all, key=lambda s: len(mates & {t.label for t in s.attachments}), default=None)
        if best is not None and mates & {t.label for t in best.attachments}:
            return best.name
        here = next((s.name for s in self.known.segments.all if f"{self.box}:{self.port}" in s.labels), None)
        return here or f"the segment of {self.box}:{self.port}"

    def _static(self, site: Site, attachment: Attachment) -> str | None:
        """Return a free address of the laptop's segment, the last one, where people put such things."""
        taken = {int(a) for a in site.net.owned if a.version == 4}
        taken |= {int(g.first) for g in site.net.hosts if g.endpoint and g.subnet.version == 4}
        for text in site.segments.all[site.segments.of(attachment)].subnets:
            subnet = ip_network(text)
            if subnet.version == 4 and subnet.num_addresses > 3:
                free = int(subnet.broadcast_address) - 1
                while free in taken:
                    free -= 1
                return f"{ip_address(free)}/{subnet.prefixlen}"
        return None

    def _reached(self, site: Site) -> tuple[list[str], Cause | None]:
        """Return the segments some flow of the laptop gets to, its own and transits aside; where there are none, why."""
        groups = [g for g in (self._group(site, 4), self._group(site, 6)) if g is not None]
        if not groups:
            return [], None
        own = groups[0]
        sweep, mine = Sweep(site, own.segment), dict[int, int]()
        mine.update((g.subnet.version, int(g.first)) for g in groups)
        others = [(b, s) for b, s in enumerate(site.segments.all) if b != own.segment and s.kind != "transit"]
        reached = [
            s.name
            for b, s in others
            if any(
                low <= mine.get(x.family, -1) <= high
                for x in sweep.flows(own.segment, b).boxes
                for low, high in x.sources
            )
        ]
        if reached or not others:
            return reached, None
        return [], self._why_not(site, own, [b for b, _ in others])

    def _why_not(self, site: Site, own: HostGroup, others: list[int]) -> Cause | None:
        """Return what stops a packet of the laptop to the outside, else to the first segment with a host."""
        source = host_place(site, own)
        order = sorted(others, key=lambda b: site.segments.all[b].kind != "outside")
        places = (
            p
            for b in order
            for g in site.net.groups_of[b]
            if (p := host_place(site, g)) and p.address.version == own.subnet.version
        )
        target: Place | None = next(places, None)
        return walk(site, source, target, HTTPS).cause if source is not None and target is not None else None


def _find(design: Design, place: str, conditions: Conditions) -> tuple[str, str]:
    box, port = end_asked(place)
    boxes: dict[str, tuple[str, Device]] = {}
    for device in design.devices:
        for unit in unit_names(device):
            boxes[unit] = (unit, device)
        active = forwarding_units(device, conditions)
        boxes.setdefault(device.name, (active[0] if active else unit_names(device)[0], device))
    if box not in boxes:
        names = list(boxes)
        raise UnknownPlace(
            [Problem("", "there is no device of this name", repr(box), ", ".join(names[:14]), nearest(box, names))]
        )
    unit, device = boxes[box]
    names = places_of(device)
    if port not in names:
        problem = Problem(
            "", f"{box} has no port of this name", repr(port), ", ".join(names[:14]), nearest(port, names)
        )
        raise UnknownPlace([problem])
    return unit, port


def with_laptop(
    design: Design, name: str, spot: tuple[str, str], tag: int | None, addresses: list[str], lease: bool
) -> Design:
    """Return the design with the laptop on the port, in the place of whatever is plugged in there; every pointer stays what it was."""
    tree: Tree = design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    cables = [list(c) for c in tree.get("cables", [])]
    wireless = any(spot == (d.name, s) for d in design.devices for s in ssid_names(d))  # takes one more
    held = next((c for c in cables if spot in (parse_end(c[0]), parse_end(c[1])) and not wireless), None)
    if held is None:
        held = []
        cables.append(held)
    held[:] = [f"{spot[0]}:{spot[1]}", f"{name}:1"]
    laptop: Tree = {"name": name, "kind": "endpoint", "ports": [{"name": "1"}], "dhcp": lease}
    if tag:
        laptop["ports"] = [{"name": "1", "subinterfaces": [{"tag": tag, "addresses": addresses}]}]
    else:
        laptop["addresses"] = addresses
    tree["cables"], tree["devices"] = cables, [*tree.get("devices", []), laptop]
    return parse_design(tree)


def _stopped(cause: Cause) -> Plug:
    return Plug(None, None, None, None, None, {}, None, [], list(cause.pointers), stops=cause)
