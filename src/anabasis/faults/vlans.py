"""Faults of layer 2: tags, native VLANs, tables, what a port admits."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put

FOREIGN = 777
"""A VLAN that no plan here has."""


def _bridged(look: Look) -> Iterator[tuple[int, str, dict[str, object]]]:
    for d, at, port in look.every_member():
        kind = look.devices[d]["kind"]
        if kind in ("switch", "firewall", "access-point") and port.get("mode", DEFAULT_MODE[kind]) == "bridged":
            yield d, at, port


def _host_here(look: Look, d: int, port: dict[str, object]) -> bool:
    return any(look.devices[e]["kind"] == "endpoint" for e, _, _ in look.far(d, port))


def _drop(values: object, gone: int) -> list[int]:
    return [v for v in values if v != gone]  # type: ignore[attr-defined]


def tag_missing(look: Look) -> Iterator[Made]:
    """One end of an uplink lacks a tag."""
    for d, at, port in _bridged(look):
        for v in port.get("tagged", []) if look.cabled(d, port) else ():  # type: ignore[attr-defined]
            yield put(at, "tagged", _drop(port["tagged"], v)), look.link(d, at, port)


def subinterface_tag(look: Look) -> Iterator[Made]:
    """A subinterface has another tag than its VLAN."""
    for d, at, port in look.every_member():
        for k, sub in enumerate(port.get("subinterfaces", [])):
            here, name = f"{at}/subinterfaces/{k}", f"{port['name']}.{sub['tag']}"
            leases = [i for i, e in enumerate(look.devices[d].get("dhcp", [])) if e["interface"] == name]
            follow = [
                op
                for i in leases
                for op in put(pointer("devices", d, "dhcp", i), "interface", f"{port['name']}.{FOREIGN}")
            ]
            if sub.get("addresses"):
                yield [*put(here, "tag", FOREIGN), *follow], (here, *look.link(d, at, port))


def native_untagged(look: Look) -> Iterator[Made]:
    """One end of an uplink sends a VLAN without its tag."""
    for d, at, port in _bridged(look):
        for v in port.get("tagged", []) if look.cabled(d, port) and not port.get("untagged") else ():  # type: ignore[attr-defined]
            edit = [*put(at, "tagged", _drop(port["tagged"], v)), *put(at, "untagged", [v]), *put(at, "pvid", v)]
            yield edit, look.link(d, at, port)


def native_differs(look: Look) -> Iterator[Made]:
    """The ends of an uplink have different native VLANs."""
    for d, at, port in _bridged(look):
        if port.get("tagged") and port.get("untagged") and port.get("pvid") and look.cabled(d, port):
            edit = [*put(at, "untagged", [FOREIGN]), *put(at, "pvid", FOREIGN)]
            table = look.devices[d].get("vlans")
            if table is None:
                yield edit, look.link(d, at, port)


def pvid_outside(look: Look) -> Iterator[Made]:
    """A port's PVID is no VLAN of its members."""
    for d, at, port in _bridged(look):
        if port.get("untagged") and look.cabled(d, port):
            yield put(at, "pvid", FOREIGN), look.link(d, at, port) if not _host_here(look, d, port) else (at,)


def wrong_vlan(look: Look) -> Iterator[Made]:
    """A host's port is in another VLAN."""
    ids = [v["id"] for v in look.tree.get("vlans", []) if v.get("subnets")]
    for d, at, port in _bridged(look):
        if port.get("untagged") and _host_here(look, d, port):
            other = next((v for v in ids if v not in port["untagged"]), None)  # type: ignore[operator]
            hosts = [pointer("devices", e) for e, _, _ in look.far(d, port)]
            static = all(look.devices[e].get("addresses") for e, _, _ in look.far(d, port))
            if other and static:
                yield [*put(at, "untagged", [other]), *put(at, "pvid", other)], (at, *hosts)


def table_lacks(look: Look) -> Iterator[Made]:
    """A device's VLAN table does not have a VLAN that its ports carry."""
    for d, device in enumerate(look.devices):
        if device["kind"] == "switch" and device.get("vlans") is None:
            used = {v for _, p in look.members(d) for v in (*p.get("tagged", []), *p.get("untagged", []))}
            for v in sorted(used):
                yield put(pointer("devices", d), "vlans", sorted(used - {v})), (pointer("devices", d, "vlans"),)


def accepts(look: Look) -> Iterator[Made]:
    """A port admits tagged frames only, where frames come without."""
    for d, at, port in _bridged(look):
        if port.get("untagged") and _host_here(look, d, port):
            yield put(at, "accept", "tagged"), (at,)


def accepts_untagged(look: Look) -> Iterator[Made]:
    """A port admits untagged frames only, where frames come tagged."""
    for d, at, port in _bridged(look):
        if port.get("tagged") and look.cabled(d, port):
            yield put(at, "accept", "untagged"), (at,)


def isolated(look: Look) -> Iterator[Made]:
    """The uplink and the ports of a switch are isolated from each other."""
    for d, device in enumerate(look.devices):
        if device["kind"] != "switch" or device.get("routing"):
            continue
        mine = [(at, p) for e, at, p in _bridged(look) if e == d]
        hosts = [(at, p) for at, p in mine if _host_here(look, d, p)]
        ups = [(at, p) for at, p in mine if p.get("tagged") and look.cabled(d, p)]
        if hosts and len(ups) == 1:
            at = hosts[0][0]
            yield [*put(at, "isolated", True), *put(ups[0][0], "isolated", True)], (at, ups[0][0])


def translate_gone(look: Look) -> Iterator[Made]:
    """A firewall no longer takes a foreign tag for its VLAN."""
    for d, at, port in _bridged(look):
        if port.get("translate"):
            yield put(at, "translate", {}), look.link(d, at, port)


def interface_off(look: Look) -> Iterator[Made]:
    """A VLAN interface or subinterface is switched off."""
    for _, at, _, _ in look.interfaces():
        if at not in look.ports and at not in look.bundles:
            yield put(at, "enabled", False), (at,)


def two_untagged(look: Look) -> Iterator[Made]:
    """A port sends two VLANs without a tag."""
    ids = [v["id"] for v in look.tree.get("vlans", []) if v.get("subnets")]
    for d, at, port in _bridged(look):
        if port.get("untagged") and not port.get("tagged") and _host_here(look, d, port):
            other = next((v for v in ids if v not in port["untagged"]), None)  # type: ignore[operator]
            if other:
                yield put(at, "untagged", [*port["untagged"], other]), (at,)  # type: ignore[misc]


def foreign_tags(look: Look) -> Iterator[Made]:
    """A host's port carries tags of a VLAN that nobody there uses."""
    ids = [v["id"] for v in look.tree.get("vlans", []) if v.get("subnets")]
    for d, at, port in _bridged(look):
        if port.get("untagged") and not port.get("tagged") and look.switches(d) and _host_here(look, d, port):
            other = next((v for v in ids if v not in port["untagged"]), None)  # type: ignore[operator]
            if other:
                yield put(at, "tagged", [other]), (at,)


def bridged_bare(look: Look) -> Iterator[Made]:
    """A bridged port of a firewall is in no VLAN."""
    for d, at, port in _bridged(look):
        if look.devices[d]["kind"] == "firewall" and look.cabled(d, port) and port.get("tagged"):
            yield put(at, "tagged", []), (at,)


def host_tagged(look: Look) -> Iterator[Made]:
    """A host's port sends its VLAN tagged, and the host takes frames without."""
    for d, at, port in _bridged(look):
        if port.get("untagged") and not port.get("tagged") and _host_here(look, d, port):
            edit = [*put(at, "untagged", []), *put(at, "tagged", port["untagged"]), *out(f"{at}/pvid")]
            hosts = [pointer("devices", e) for e, _, _ in look.far(d, port)]
            yield edit, (at, *hosts)


FAMILY = (
    FaultKind("tag-missing", "one end of an uplink lacks a tag", "vlan", "breaks", True, 9, tag_missing),
    FaultKind("subinterface-tag", "a subinterface has another tag than its VLAN", "vlan", "breaks", True, 5, subinterface_tag),
    FaultKind("native-untagged", "one end of an uplink sends a VLAN untagged", "vlan", "breaks", True, 6, native_untagged),
    FaultKind("native-differs", "the ends of an uplink have different native VLANs", "vlan", "breaks", True, 6, native_differs),
    FaultKind("pvid-outside", "a PVID that the port is no member of", "vlan", "breaks", True, 7, pvid_outside),
    FaultKind("wrong-vlan", "a host's port is in another VLAN", "vlan", "breaks", True, 8, wrong_vlan),
    FaultKind("table-lacks", "a device's VLAN table lacks a VLAN", "vlan", "breaks", True, 6, table_lacks),
    FaultKind("accepts-tagged", "a host's port admits tagged frames only", "vlan", "breaks", True, 3, accepts),
    FaultKind("accepts-untagged", "an uplink admits untagged frames only", "vlan", "breaks", True, 3, accepts_untagged),
    FaultKind("isolated", "ports that should exchange frames are isolated", "isolation", "breaks", True, 3, isolated),
    FaultKind("translate-missing", "a foreign tag is not translated", "vlan", "breaks", True, 4, translate_gone),
    FaultKind("interface-disabled", "a VLAN interface or subinterface is switched off", "link", "breaks", True, 5, interface_off),
    FaultKind("untagged-two", "a port sends two VLANs untagged", "vlan", "risks", False, 4, two_untagged),
    FaultKind("foreign-tag", "a host's port carries a VLAN that is not its own", "vlan", "risks", False, 3, foreign_tags),
    FaultKind("bridged-bare", "a bridged firewall port is in no VLAN", "vlan", "breaks", True, 5, bridged_bare),
    FaultKind("host-port-tagged", "a host's port sends its VLAN tagged", "vlan", "breaks", True, 4, host_tagged),
)  # fmt: skip
