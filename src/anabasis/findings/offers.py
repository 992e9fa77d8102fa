"""What could be made where a finding says that something is missing: the thing, with what is known of it already."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import jsonpointer

from anabasis.design import Tree
from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.making.fresh import gateway_place, lease_on
from anabasis.design.pointers import BOX, OF_BOX, lies_in, upper
from anabasis.findings.catalogue import Finding


@dataclass(frozen=True)
class Offer:
    """One thing that a person may make, in its dialog."""

    kind: str
    """As `making.KINDS` calls it."""
    at: str
    """The pointer of its owner."""
    title: str
    """Of the owner, as one calls it."""
    value: dict[str, Any]
    """What is known of it; the rest is proposed."""
    sets: str | None = None
    """The pointer of a field that then names it."""


def offers(tree: Tree, finding: Finding) -> list[Offer]:
    """Return what making would mend a finding; nothing where an edit that is worked out does."""
    if finding.mend is not None:
        return []
    made = {
        "zone-missing": _zone,
        "gateway-missing": _gateway,
        "lease-missing": _lease,
        "lease-none": _lease,
        "route-missing": _route,
        "return-missing": _route,
    }.get(finding.code)
    return list(made(tree, finding)) if made else []


def _zone(tree: Tree, finding: Finding) -> Iterator[Offer]:
    place = finding.pointers[0]
    at = upper(place, BOX)
    device = jsonpointer.resolve_pointer(tree, at)
    entry = jsonpointer.resolve_pointer(tree, upper(place, OF_BOX))
    mode = (
        entry.get("mode", DEFAULT_MODE["firewall"])
        if "name" in entry and not lies_in(place, f"{at}/loopbacks")
        else "routed"
    )
    yield Offer(
        "zone", at, device["name"], {"kind": mode if mode in ("bridged", "inline") else "routed"}, f"{place}/zone"
    )


def _gateway(tree: Tree, finding: Finding) -> list[Offer]:
    """A subinterface where a box has some, a VLAN interface where it bridges and routes; the boxes that bridge the VLAN first."""
    found = next((p for p in finding.pointers if lies_in(p, "/vlans")), None)
    vlan = jsonpointer.resolve_pointer(tree, upper(found, BOX)) if found else {}
    addresses = [a for n in vlan.get("subnets", []) if (a := gateway_place(tree, n))]
    out: list[tuple[bool, Offer]] = []
    for d, device in enumerate(tree["devices"] if addresses else ()):
        at, kind = f"/devices/{d}", device["kind"]
        taken = {v["vlan"] for v in device.get("vlan_interfaces", [])}
        if device.get("vlan_interfaces") or (kind == "switch" and device.get("routing")):
            if vlan["id"] not in taken:
                value = {"vlan": vlan["id"], "addresses": addresses}
                out.append((not _bridges(device, vlan["id"]), Offer("vlan-interface", at, device["name"], value)))
            continue
        for key in ("lags", "ports") if kind in ("firewall", "router") else ():
            for i, port in enumerate(device.get(key, [])):
                tags = [s["tag"] for s in port.get("subinterfaces", [])]
                if tags and port.get("mode", DEFAULT_MODE[kind]) == "routed" and vlan["id"] not in tags:
                    value = {"tag": vlan["id"], "addresses": addresses}
                    out.append(
                        (True, Offer("subinterface", f"{at}/{key}/{i}", f"{device['name']}:{port['name']}", value))
                    )
    return [offer for _, offer in sorted(out, key=lambda x: x[0])]


def _bridges(device: Tree, vlan: int) -> bool:
    return any(
        vlan in (*p.get("untagged", ()), *p.get("tagged", ())) for k in ("ports", "lags") for p in device.get(k, [])
    )


def _boxes(tree: Tree, finding: Finding) -> Iterator[tuple[str, str, Tree]]:
    """Yield (pointer, that of its box, the box) of what a finding names on boxes that may bridge and route."""
    for place in finding.pointers:
        at = upper(place, BOX)
        device = jsonpointer.resolve_pointer(tree, at, None) if lies_in(place, "/devices") else None
        if device is not None and device["kind"] in ("switch", "router", "firewall"):
            yield place, at, device


def _lease(tree: Tree, finding: Finding) -> Iterator[Offer]:
    for place, at, device in _boxes(tree, finding):
        proposed = lease_on(tree, device, at, place)
        if proposed is not None:
            yield Offer("lease", at, device["name"], proposed)


def _route(tree: Tree, finding: Finding) -> Iterator[Offer]:
    """On the first box that the finding names."""
    for place, at, device in _boxes(tree, finding):
        vrfs = [f"{at}/vrfs/{i}" for i, _ in enumerate(device.get("vrfs", []))]
        own = next((v for v in vrfs if place.startswith(v)), vrfs[0] if vrfs else at)
        yield Offer("route", own, device["name"], {})
        return
