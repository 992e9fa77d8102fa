"""Faults of tenants on an overlay: what was copied and left alike, what tells nobody, and gateways in the wrong table."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put

Held = tuple[int, str, Tree]


def _instances(look: Look, key: str) -> list[Held]:
    """Return (number of the box, pointer, entry) of the MAC-VRFs, or of the tables on the overlay, of every box."""
    return [
        (d, pointer("devices", d, key, i), entry)
        for d, device in enumerate(look.devices)
        for i, entry in enumerate(device.get(key, []))
        if entry.get("import") or entry.get("export")
    ]


def _kin(at: str, entry: Tree, known: list[Held]) -> tuple[str, ...]:
    """Return the instance, and those of the same tenant on other boxes: where they differ, either is to blame."""
    return (at, *(other for _, other, e in known if e["name"] == entry["name"] and other != at))


def vni(look: Look) -> Iterator[Made]:
    """A stretched VLAN has another VNI on one box."""
    known = _instances(look, "mac_vrfs")
    held = [(f"{at}/vlans/{k}", s) for _, at, mac in known for k, s in enumerate(mac.get("vlans", []))]
    for at, stretched in held:
        guilty = (at, *(other for other, s in held if s["vni"] == stretched["vni"] and other != at))
        if len(guilty) > 1:
            yield put(at, "vni", stretched["vni"] + 700), guilty


def copied(look: Look) -> Iterator[Made]:
    """An instance was copied from another tenant's, and exports as that does."""
    for key in ("mac_vrfs", "vrfs"):
        known = _instances(look, key)
        for d, at, entry in known:
            other = next((e for box, _, e in known if e["name"] != entry["name"] and box == d), None)
            if other is not None:
                yield put(at, "export", list(other["export"])), _kin(at, entry, known)


def one_way(look: Look) -> Iterator[Made]:
    """An instance imports nothing: the others know it, and it knows nobody."""
    for key in ("mac_vrfs", "vrfs"):
        known = _instances(look, key)
        for _, at, entry in known:
            if len(_kin(at, entry, known)) > 1:
                yield put(at, "import", []), _kin(at, entry, known)


def gateway(look: Look) -> Iterator[Made]:
    """The gateway of a stretched VLAN stands in another tenant's table."""
    counts = [e["vni"] for _, _, mac in _instances(look, "mac_vrfs") for e in mac.get("vlans", [])]
    for d, device in enumerate(look.devices):
        tables = [v["name"] for v in device.get("vrfs", []) if v.get("import")]
        shared = {
            s.get("irb") for m in device.get("mac_vrfs", []) for s in m.get("vlans", []) if counts.count(s["vni"]) > 1
        }
        for i, entry in enumerate(device.get("vlan_interfaces", [])):
            other = next((t for t in tables if t != entry.get("vrf")), None)
            if other is not None and entry["vlan"] in shared:
                at = pointer("devices", d, "vlan_interfaces", i)
                yield put(at, "vrf", other), (at,)


def untold(look: Look) -> Iterator[Made]:
    """A table does not advertise what it is connected to."""
    stands = [
        (d, i.get("vrf"), i["vlan"]) for d, device in enumerate(look.devices) for i in device.get("vlan_interfaces", [])
    ]
    for d, device in enumerate(look.devices):
        for i, entry in enumerate(device.get("vrfs", [])):
            mine = {v for box, vrf, v in stands if box == d and vrf == entry["name"]}
            others = {v for box, vrf, v in stands if box != d and vrf == entry["name"]}
            alone = bool(mine - others) and bool(others) and entry.get("irb_mode") == "asymmetric"
            if alone and entry.get("advertise") == "connected":
                at = pointer("devices", d, "vrfs", i)
                yield put(at, "advertise", []), (at,)


def source(look: Look) -> Iterator[Made]:
    """The source of a box's packets is told to nobody in the underlay."""
    for d, device in enumerate(look.devices):
        sources = {m["source"] for m in device.get("mac_vrfs", [])}
        for v, vrf in enumerate(device.get("vrfs", [])):
            for k, entry in enumerate(vrf.get("ospf", {}).get("interfaces", [])):
                if entry["interface"] in sources:
                    at = pointer("devices", d, "vrfs", v, "ospf")
                    loopback = next(i for i, x in enumerate(device["loopbacks"]) if x["name"] == entry["interface"])
                    yield out(f"{at}/interfaces/{k}"), (at, pointer("devices", d, "loopbacks", loopback))


FAMILY = (
    FaultKind("tenant-vni", "a stretched VLAN has another VNI on one box", "vlan", "breaks", True, 4, vni),
    FaultKind("tenant-copied", "a target was copied unchanged", "vlan", "breaks", True, 7, copied),
    FaultKind("tenant-one-way", "an instance imports nothing", "vlan", "breaks", True, 6, one_way),
    FaultKind("tenant-gateway", "a gateway stands in another tenant's table", "route", "breaks", True, 5, gateway),
    FaultKind("tenant-untold", "a table advertises nothing", "route", "breaks", True, 4, untold),
    FaultKind("tenant-source", "a source is told to nobody in the underlay", "route", "breaks", True, 4, source),
)
