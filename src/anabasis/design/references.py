"""Who names whom: every name used must exist, every name given must be unique within its kind and owner."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import chain, islice

from anabasis.design.devices import DEFAULT_MODE, AccessPoint, BridgingBox, Device, Endpoint, Firewall, Outside, Switch
from anabasis.design.document import Design
from anabasis.design.iana import iana_services
from anabasis.design.mentions import Mention, mentions
from anabasis.design.notation import (
    PROTOCOLS,
    looks_like_address,
    parse_address,
    parse_end,
    parse_prefix,
    parse_span,
    pointer,
)
from anabasis.design.ports import Membership
from anabasis.design.routes import Route
from anabasis.design.rules import Translating
from anabasis.design.targets import Targets
from anabasis.errors import MOST_TOLD, Problem, nearest

Problems = Iterator[Problem]
At = tuple[str | int, ...]
"""The reference tokens of a pointer, which is written out only where there is a problem."""


def check(design: Design, before: Design | None = None) -> list[Problem]:
    """Return every broken reference and every name given twice. `before`: a design that is known to be sound; devices and rules it shares are not asked again."""
    known = {id(d) for d in before.devices} if before is not None else set()
    same = before is not None and (before.addresses, before.services) == (design.addresses, design.services)
    sound = known | _sound_rules(design, before) if same and before is not None else set()
    found = chain(
        _unique_names(design, known), _sets(design), _names(design, sound), _devices(design, sound), _cables(design)
    )
    return list(islice(found, MOST_TOLD + 1))  # finding the nearest name for each of thousands takes long


def _sound_rules(design: Design, before: Design) -> set[int]:
    """Return the rules of devices that are edited elsewhere: those they share with a sound design, where the zones are the same."""
    walls = {d.name: d for d in before.devices if isinstance(d, Firewall)}
    sound = set[int]()
    for device in design.devices:
        known = walls.get(device.name)
        if isinstance(device, Firewall) and known is not None and device is not known and device.zones == known.zones:
            sound |= {id(r) for r in known.rules}
    return sound


def unit_names(device: Device) -> list[str]:
    """Return the boxes a device's cables go to: its units, or itself where it has none."""
    units = device.units if isinstance(device, Firewall) else []
    return [u.name for u in units] or [device.name]


def port_names(device: Device) -> list[str]:
    """Return the names of a device's ports; an endpoint or outside without any has one, called 1."""
    if not device.ports and isinstance(device, Endpoint | Outside):
        return ["1"]
    return [p.name for p in device.ports]


def ssid_names(device: Device) -> list[str]:
    """Return the names of the wireless networks of a device."""
    return [s.name for s in device.ssids] if isinstance(device, AccessPoint) else []


def places_of(device: Device) -> list[str]:
    """Return what one can be plugged into: ports, and wireless networks."""
    return [*port_names(device), *ssid_names(device)]


def mode_of(port: Membership, device: Device) -> str:
    """Return the mode of a port or bundle, with the default of its kind of device."""
    return port.mode or DEFAULT_MODE[device.kind]


def _twice(names: Iterable[tuple[str, At]], what: str) -> Problems:
    seen: dict[str, At] = {}
    for name, where in names:
        if name in seen:
            yield Problem(pointer(*where), f"{what} {name!r} is given twice (first at {pointer(*seen[name])})")
        else:
            seen[name] = where


def _named(items: Sequence[object], *at: str | int) -> list[tuple[str, At]]:
    return [(item.name, (*at, i, "name")) for i, item in enumerate(items)]  # type: ignore[attr-defined]


def _unique_names(design: Design, sound: set[int]) -> Problems:
    yield from _twice(_named(design.vlans, "vlans"), "the VLAN name")
    yield from _twice([(str(v.id), ("vlans", i, "id")) for i, v in enumerate(design.vlans)], "the VLAN id")
    yield from _twice(_named(design.addresses, "addresses"), "the address set")
    yield from _twice(_named(design.services, "services"), "the service set")
    yield from _twice(_named(design.expectations, "expectations"), "the expectation")
    boxes = _named(design.devices, "devices")
    for d, device in enumerate(design.devices):
        if isinstance(device, Firewall):
            boxes += [
                (u.name, ("devices", d, "units", i, "name"))
                for i, u in enumerate(device.units)
                if u.name != device.name
            ]
    yield from _twice(boxes, "the device or unit name")
    for d, device in enumerate(design.devices):
        if id(device) not in sound:
            yield from _unique_in_device(device, d)


def _unique_in_device(device: Device, d: int) -> Problems:
    at = ("devices", d)
    lags = device.lags if isinstance(device, BridgingBox) else []
    beside = _named(device.ssids, *at, "ssids") if isinstance(device, AccessPoint) else []
    what = "the port or SSID" if beside else "the port or bundle"
    if isinstance(device, BridgingBox) and (device.tunnels or device.remote_access):
        beside = _named(device.tunnels, *at, "tunnels") + _named(device.remote_access, *at, "remote_access")
        beside += _named(device.loopbacks, *at, "loopbacks")
        what = "the interface"
    yield from _twice(_named(device.ports, *at, "ports") + _named(lags, *at, "lags") + beside, what)
    yield from _derived(device, at)
    for kind, members in (("ports", device.ports), ("lags", lags)):
        for i, port in enumerate(members):
            tags = [(str(s.tag), (*at, kind, i, "subinterfaces", k, "tag")) for k, s in enumerate(port.subinterfaces)]
            yield from _twice(tags, "the tag")
    if isinstance(device, BridgingBox):
        yield from _twice(_named(device.vrfs, *at, "vrfs"), "the VRF")
        yield from _twice(_named(device.loopbacks, *at, "loopbacks"), "the loopback")
        if isinstance(device, Switch):
            held = [(m, k, s.vlan) for m, mac in enumerate(device.mac_vrfs) for k, s in enumerate(mac.vlans)]
            yield from _twice(
                [(str(v), (*at, "mac_vrfs", m, "vlans", k, "vlan")) for m, k, v in held], "in a MAC-VRF the VLAN"
            )
        vlans = [(str(v.vlan), (*at, "vlan_interfaces", i, "vlan")) for i, v in enumerate(device.vlan_interfaces)]
        yield from _twice(vlans, "the interface of VLAN")
    for kind, what in (
        ("zones", "the zone"),
        ("rules", "the rule"),
        ("nat", "the translation"),
        ("answers", "the answers list"),
        ("filters", "the filter"),
        ("wires", "the inline pair"),
        ("mac_vrfs", "the MAC-VRF"),
    ):
        yield from _twice(_named(getattr(device, kind, []), *at, kind), what)


def _derived(device: Device, at: At) -> Problems:
    """A port, bundle or loopback is not called as an interface that the same box derives from another."""
    bases: list[Membership] = [*device.ports, *(device.lags if isinstance(device, BridgingBox) else [])]
    derived = {f"{b.name}.{s.tag}" for b in bases for s in b.subinterfaces}
    derived |= {f"vlan{v.vlan}" for v in getattr(device, "vlan_interfaces", [])}
    for kind in ("ports", "lags", "loopbacks", "tunnels", "remote_access") if derived else ():
        for i, entry in enumerate(getattr(device, kind, [])):
            if entry.name in derived:
                said = f"{device.name} has an interface of this name already, derived from its settings"
                yield Problem(
                    pointer(*at, kind, i, "name"), said, repr(entry.name), f"another name, such as 'port {entry.name}'"
                )


def _sets(design: Design) -> Problems:
    for kind in ("addresses", "services"):
        sets = {s.name: s.members for s in getattr(design, kind)}
        for i, name in enumerate(sets):
            if _reaches_itself(name, sets):
                yield Problem(pointer(kind, i), "a set cannot hold itself, not even through others", repr(name))


def _reaches_itself(name: str, sets: dict[str, list[str]]) -> bool:
    seen: set[str] = set()
    todo = list(sets[name])
    while todo:
        member = todo.pop()
        if member == name:
            return True
        if member not in seen:
            seen.add(member)
            todo += sets.get(member, [])
    return False


WORDS = {
    "addresses": "address set",
    "zone": "zone on this device",
    "vrf": "VRF on this device",
    "answers": "answers list on this device",
    "filter": "filter on this device",
    "lag": "bundle",
    "interface": "interface on this device",
    "port": "port on this device",
    "line": "port on this device",
}
"""What a kind of mention is called where nothing of the name is there."""


def _names(design: Design, sound: set[int]) -> Problems:
    """Every name that has to stand for something: asked of the one walk, whatever holds it."""
    targets = Targets(design)
    for mention in mentions(design, sound):
        if mention.ref.known and mention.kind != "cable-end" and not _stands(targets, mention):
            yield _nobody(targets, mention)


def _stands(targets: Targets, mention: Mention) -> bool:
    text = mention.value
    if targets.of(mention):
        return True
    if mention.kind == "addresses":
        return looks_like_address(text) or text == "any"
    if mention.kind == "services":
        return "/" in text or text == "any" or text in iana_services() or text in PROTOCOLS
    return (mention.kind, text) == ("vrf", "main") or (
        mention.kind in ("zone", "interface") and mention.ref.loss == "last" and text == "any"
    )


def _nobody(targets: Targets, mention: Mention) -> Problem:
    known = targets.names(mention.kind, mention.device)
    if mention.kind == "services":
        names = [*known, *iana_services(), *PROTOCOLS]
        allowed = "tcp/443, udp/1000-1010, icmp/8, an IANA service name, or a set of this design"
        said = "there is no service of this name"
        return Problem(mention.pointer, said, repr(mention.value), allowed, nearest(mention.value, names))
    if mention.kind == "vrf":
        known = list(dict.fromkeys(["main", *known]))
    if mention.kind in ("zone", "interface") and mention.ref.loss == "last":
        known = ["any", *known]
    allowed = ", ".join(known[:12]) + (", …" if len(known) > 12 else "")
    what = WORDS[mention.kind]
    said = f"there is no {what} of this name"
    return Problem(
        mention.pointer, said, repr(mention.value), allowed or f"no {what} is defined", nearest(mention.value, known)
    )


def _devices(design: Design, sound: set[int]) -> Problems:
    for d, device in enumerate(design.devices):
        if id(device) in sound:
            continue
        at = pointer("devices", d)
        for kind in ("ports", "lags"):
            for i, port in enumerate(getattr(device, kind, [])):
                yield from _member(port, f"{at}/{kind}/{i}")
        for where, route in _routes(device, at):
            yield from _route(route, where)
            if route.steers and isinstance(device, Outside):
                said = "an outside routes by destination alone"
                yield Problem(where, said, device.name, "no sources, no services and no entered")
        for i, entry in enumerate(getattr(device, "nat", [])):
            yield from _translation(entry, f"{at}/nat/{i}")
        if isinstance(device, BridgingBox):
            yield from _overlay(device, at)


def _overlay(device: BridgingBox, at: str) -> Problems:
    """A box has one source on the overlay, and a gateway of a VLAN stands in that VLAN."""
    macs = device.mac_vrfs if isinstance(device, Switch) else []
    vrfs = [(v, f"{at}/vrfs/{i}") for i, v in enumerate(device.vrfs) if v.on_overlay]
    if vrfs and isinstance(device, Firewall):
        said = "a firewall takes no part in an overlay; a switch or a router beside it does"
        yield Problem(vrfs[0][1], said, ", ".join((*vrfs[0][0].import_, *vrfs[0][0].export)), "no import and no export")
    named = [(m.source, f"{at}/mac_vrfs/{i}/source") for i, m in enumerate(macs)]
    named += [(v.source, f"{where}/source") for v, where in vrfs if v.source]
    for name, where in named:
        if name != named[0][0]:
            yield Problem(where, "a box has one source on the overlay", repr(name), repr(named[0][0]))
    for i, mac in enumerate(macs):
        for k, held in enumerate(mac.vlans):
            if held.irb is not None and held.irb != held.vlan:
                said = "the gateway of a VLAN is the VLAN interface of that VLAN"
                yield Problem(f"{at}/mac_vrfs/{i}/vlans/{k}/irb", said, str(held.irb), f"{held.vlan}, or nothing")


def _member(port: Membership, where: str) -> Problems:
    lag = getattr(port, "lag", None)
    if port.mode == "lag" and lag is None:
        yield Problem(where, "a port in mode lag names its bundle in the key 'lag'")
    if lag is not None and port.mode != "lag":
        yield Problem(f"{where}/mode", "a member of a bundle has mode lag", repr(port.mode), "lag")


def _routes(device: Device, at: str) -> Iterator[tuple[str, Route]]:
    for i, route in enumerate(device.routes if isinstance(device, Outside) else []):
        yield f"{at}/routes/{i}", route
    for v, vrf in enumerate(getattr(device, "vrfs", [])):
        for i, route in enumerate(vrf.routes):
            yield f"{at}/vrfs/{v}/routes/{i}", route


def _route(route: Route, where: str) -> Problems:
    forms = [k for k in ("via", "interface", "vrf") if getattr(route, k) is not None] + (
        ["discard"] if route.discard else []
    )
    if len(forms) != 1 and forms != ["via", "interface"]:
        yield Problem(
            where,
            "a route has one way to go",
            ", ".join(forms) or "none",
            "via, via with interface, interface, vrf, or discard: true",
        )
    if route.steers and route.learned is not None:
        said = "a route that is learnt looks at the destination alone"
        yield Problem(where, said, f"learned by {route.learned.by}", "no sources, no services and no entered")
    given = parse_prefix(route.to) if looks_like_address(route.to) else None
    if route.via and given is not None and parse_address(route.via).version != given.version:
        yield Problem(
            f"{where}/via",
            "the next hop is of the other address family",
            repr(route.via),
            f"an address like {route.to}",
        )


def _translation(entry: Translating, where: str) -> Problems:
    """What a translation gives must be of one family, and one to one of one size."""
    given = entry.source_to if entry.source_to != "interface" else None
    families = {parse_span(t)[0].version for t in (given, entry.destination_to) if t}
    if len(families) > 1:
        said = "a translation gives addresses of one family"
        yield Problem(where, said, f"{given} and {entry.destination_to}", "both IPv4, or both IPv6")
    if entry.one_to_one and not _one_to_one(entry.sources, given):
        said = "one to one takes one prefix and gives one of equal length"
        allowed = "sources: [10.64.170.8/29] with source_to: 198.51.100.8/29"
        yield Problem(where + "/one_to_one", said, f"{', '.join(entry.sources)} to {entry.source_to}", allowed)


def _one_to_one(sources: Sequence[str], given: str | None) -> bool:
    texts = [*sources, given or ""]
    if len(texts) != 2 or not all(looks_like_address(t) and "-" not in t for t in texts):
        return False
    one, two = (parse_span(t) for t in texts)
    return one[0].version == two[0].version and int(one[1]) - int(one[0]) == int(two[1]) - int(two[0])


def _cables(design: Design) -> Problems:
    boxes: dict[str, Device] = {u: d for d in design.devices for u in unit_names(d)}
    taken: dict[tuple[str, str], int] = {}
    ports: dict[str, dict[str, None]] = {}
    for i, cable in enumerate(design.cables):
        for k, end in enumerate(cable):
            where = pointer("cables", i, k)
            box, port = parse_end(end)
            if box not in boxes:
                owner = next((d for d in design.devices if d.name == box), None)
                hint = f"{unit_names(owner)[0]}:{port}" if owner else nearest(box, list(boxes))
                message = "a firewall's cables go to its units" if owner else "there is no device or unit of this name"
                yield Problem(where, message, repr(box), ", ".join(list(boxes)[:12]), hint)
                continue
            if box not in ports:
                ports[box] = dict.fromkeys(places_of(boxes[box]))
            names = ports[box]
            if port not in names:
                lag = port in [x.name for x in getattr(boxes[box], "lags", [])]
                message = "a cable goes to a port, not to a bundle" if lag else f"{box} has no port of this name"
                yield Problem(where, message, repr(port), ", ".join(list(names)[:12]), nearest(port, list(names)))
            elif port in ssid_names(boxes[box]):
                other = boxes.get(parse_end(cable[1 - k])[0])
                if other is not None and other.kind != "endpoint":
                    yield Problem(
                        where, "only an endpoint joins an SSID", repr(cable[1 - k]), "the port of an endpoint"
                    )
            elif (box, port) in taken:
                yield Problem(where, f"{box}:{port} already holds the cable /cables/{taken[box, port]}")
            else:
                taken[box, port] = i
