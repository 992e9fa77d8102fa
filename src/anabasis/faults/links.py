"""Faults of layer 1: cables, ports, bundles, inline pairs."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.notation import parse_end, pointer
from anabasis.faults.kinds import FaultKind, Look, Made, boxes, out, put


def _between(look: Look, i: int) -> tuple[str, ...]:
    """Return the ports at both ends of a cable, and the bundles they are in."""
    found: list[str] = []
    for end in look.tree["cables"][i]:
        box, name = parse_end(end)
        for d, device in enumerate(look.devices):
            if box in boxes(device):
                mine = [(at, p) for at, p in look.members(d) if p["name"] == name]
                found += [at for at, _ in mine] or [pointer("devices", d)]
                found += [
                    at
                    for _, p in mine
                    for at, lag in look.members(d)
                    if at in look.bundles and lag["name"] == p.get("lag")
                ]
                found += [pointer("devices", d)] if device["kind"] == "endpoint" else []
    return tuple(found)


def _is_data(look: Look, i: int) -> bool:
    """A cable whose loss somebody feels: no heartbeat, and of a pair that of the unit that is active."""
    ends = [parse_end(e) for e in look.tree["cables"][i]]
    for box, name in ends:
        for device in look.devices:
            if box in boxes(device)[1:]:
                return False
            if box in boxes(device) and any(
                p["name"] == name and p.get("mode") in ("heartbeat", "lag") for p in device.get("ports", [])
            ):
                return False
    return True


def pulled(look: Look) -> Iterator[Made]:
    """A cable is not there."""
    for i in range(len(look.tree.get("cables", []))):
        if _is_data(look, i):
            yield out(pointer("cables", i)), _between(look, i)


def disabled(look: Look) -> Iterator[Made]:
    """A port or bundle is switched off."""
    for d, at, port in look.every_member():
        if look.cabled(d, port) and port.get("mode") not in ("heartbeat", "lag"):
            yield put(at, "enabled", False), (at,)


def off(look: Look) -> Iterator[Made]:
    """A port has the mode off."""
    for d, at, port in look.every_member():
        if (
            at in look.ports
            and look.cabled(d, port)
            and look.switches(d)
            and port.get("mode") is None
            and _plain(look, d)
        ):
            yield put(at, "mode", "off"), (at,)


def _plain(look: Look, d: int) -> bool:
    return not look.devices[d].get("units")


def modeless(look: Look) -> Iterator[Made]:
    """A firewall's port was never given a mode."""
    for d, at, port in look.every_member():
        if (
            look.devices[d]["kind"] == "firewall"
            and port.get("mode") in ("routed", "bridged", "inline")
            and look.cabled(d, port)
        ):
            yield out(f"{at}/mode"), (at,)


def speeds(look: Look) -> Iterator[Made]:
    """Two fixed speeds that differ."""
    for d, at, port in look.every_member():
        if at in look.ports and look.switches(d) and port.get("mode") is None:
            for _, there, _ in look.far(d, port):
                if there in look.ports:
                    edit = [*put(at, "speed_mbps", 1000), *put(there, "speed_mbps", 100)]
                    yield edit, look.link(d, at, port)


def duplex(look: Look) -> Iterator[Made]:
    """One end sends both ways at once, the other one way at a time."""
    for d, at, port in look.every_member():
        if at in look.ports and look.switches(d) and port.get("mode") is None:
            for _, there, _ in look.far(d, port):
                if there in look.ports:
                    yield [*put(at, "duplex", "full"), *put(there, "duplex", "half")], look.link(d, at, port)


def mtus(look: Look) -> Iterator[Made]:
    """The ends of a cable take frames of different sizes."""
    for d, at, port in look.every_member():
        if at in look.ports and look.switches(d) and port.get("mode") is None:
            for _, there, _ in look.far(d, port):
                if there in look.ports:
                    yield put(at, "mtu", 9000), look.link(d, at, port)


def protocols(look: Look) -> Iterator[Made]:
    """A bundle is static at one end and negotiated at the other."""
    for d, at, lag in look.every_member():
        if at in look.bundles and look.cabled(d, lag):
            other = "static" if lag.get("protocol", "lacp-active") != "static" else "lacp-active"
            yield put(at, "protocol", other), look.link(d, at, lag)


def passive(look: Look) -> Iterator[Made]:
    """Both ends of a bundle wait for the other to speak."""
    for d, at, lag in look.every_member():
        if at in look.bundles and lag.get("protocol", "lacp-active") == "lacp-active":
            for _, there, other in look.far(d, lag):
                if there in look.bundles and other.get("protocol", "lacp-active") == "lacp-active":
                    edit = [*put(at, "protocol", "lacp-passive"), *put(there, "protocol", "lacp-passive")]
                    yield edit, look.link(d, at, lag)


def single(look: Look) -> Iterator[Made]:
    """A bundle's members were never bundled at one end: plain ports stand there."""
    for d, at, lag in look.every_member():
        if at in look.bundles and look.switches(d) and look.cabled(d, lag):
            members = [a for a, p in look.members(d) if p.get("lag") == lag["name"]]
            edit = [op for m in members for op in (*out(f"{m}/lag"), *out(f"{m}/mode"))]
            yield edit, look.link(d, at, lag)


def min_links(look: Look) -> Iterator[Made]:
    """A bundle asks for more members than it has."""
    for d, at, lag in look.every_member():
        if at in look.bundles and look.cabled(d, lag):
            yield put(at, "min_links", 3), look.link(d, at, lag)


def crossed(look: Look) -> Iterator[Made]:
    """Members of two bundles are plugged in crosswise."""
    cables = look.tree.get("cables", [])
    seen: set[tuple[str, ...]] = set()
    for i, one in enumerate(cables):
        for j in range(i):
            two = cables[j]
            ends = [parse_end(e)[0] for e in (*one, *two)]
            if ends[0] == ends[2] and ends[1] != ends[3] and all(_in_bundle(look, e) for e in (*one, *two)):
                key = tuple(sorted({*ends}))
                if key not in seen:
                    seen.add(key)
                    swapped = [
                        put(pointer("cables"), str(i), [one[0], two[1]])[0] | {"op": "replace"},
                        put(pointer("cables"), str(j), [two[0], one[1]])[0] | {"op": "replace"},
                    ]
                    yield swapped, (*_between(look, i), *_between(look, j), pointer("cables", i), pointer("cables", j))


def _in_bundle(look: Look, end: str) -> bool:
    box, name = parse_end(end)
    return any(box in boxes(x) and p["name"] == name and p.get("lag") for x in look.devices for p in x.get("ports", []))


def wire_tags(look: Look) -> Iterator[Made]:
    """An inline pair carries none of the frames that go over it."""
    for d, device in look.firewalls():
        for i, _ in enumerate(device.get("wires", [])):
            at = pointer("devices", d, "wires", i)
            yield put(at, "tags", [4000]), (at,)


def wire_gone(look: Look) -> Iterator[Made]:
    """Two inline ends that no inline pair joins."""
    for d, device in look.firewalls():
        for i, wire in enumerate(device.get("wires", [])):
            ends = [at for at, p in look.members(d) if p["name"] in wire["ends"]]
            yield out(pointer("devices", d, "wires", i)), (*ends, pointer("devices", d, "wires"))


FAMILY = (
    FaultKind("cable-pulled", "a cable is not plugged in", "link", "breaks", True, 9, pulled),
    FaultKind("port-disabled", "a port or bundle is switched off", "link", "breaks", True, 7, disabled),
    FaultKind("port-off", "a port has the mode off", "link", "breaks", True, 4, off),
    FaultKind("port-modeless", "a firewall's port was never given a mode", "link", "breaks", True, 6, modeless),
    FaultKind("speed-unlike", "the ends of a cable have different fixed speeds", "link", "breaks", True, 3, speeds),
    FaultKind("duplex-unlike", "the ends of a cable differ in duplex", "link", "risks", False, 3, duplex),
    FaultKind("mtu-unlike", "the ends of a cable take frames of different sizes", "link", "risks", False, 3, mtus),
    FaultKind("bundle-protocol", "a bundle is static at one end only", "link", "breaks", True, 7, protocols),
    FaultKind("bundle-passive", "both ends of a bundle wait", "link", "breaks", True, 3, passive),
    FaultKind("bundle-one-end", "a bundle stands at one end only", "link", "breaks", True, 5, single),
    FaultKind("bundle-min-links", "a bundle asks for more members than it has", "link", "breaks", True, 2, min_links),
    FaultKind("bundle-crossed", "members of two bundles are crossed", "link", "risks", True, 4, crossed),
    FaultKind("wire-tags", "an inline pair does not carry the frames", "vlan", "breaks", True, 4, wire_tags),
    FaultKind("wire-missing", "two inline ports that no pair joins", "link", "breaks", True, 3, wire_gone),
)  # fmt: skip
