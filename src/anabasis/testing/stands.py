"""Where to stand with a laptop: a free port of each VLAN, in each of its segments; else the host that is there already."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import ip_address
from typing import Any

from anabasis.design import Tree
from anabasis.fabric import UNTAGGED, Attachment, Segment
from anabasis.site import Site

MOST_A_SEGMENT = 2
"""How many free ports of a segment, on boxes of their own, are stood at; and how many hosts that are there."""
DEEP = 40
"""How far from the end of the addresses that hosts may have a laptop looks for a free one."""


@dataclass(frozen=True)
class Stand:
    """One place to stand at."""

    at: str
    """`device:port`, the endpoint, or the outside behind which one stands."""
    tag: int | None
    segment: str
    vlan: int | None
    laptop: str
    """What the laptop is called in the design; empty where one uses the endpoint that is there."""
    address: str = ""
    """What it is given by hand, with the length of its subnet; empty where the segment has no subnet."""
    gateway: str = ""

    @property
    def host(self) -> str:
        """Return the endpoint that sends."""
        return self.laptop or self.at


def stands_of(site: Site, tree: Tree) -> list[Stand]:
    """Return where to stand, segment by segment. `tree`: the document of the site."""
    used = {end for cable in tree.get("cables", []) for end in cable}
    taken = {d["name"] for d in tree.get("devices", [])}
    names = (n for n in (f"laptop {k}" for k in range(1, 100_000)) if n not in taken)
    out: list[Stand] = []
    handed: set[str] = set()
    """Islands of one VLAN share its subnet: no two laptops have one address."""
    for k, segment in sorted(enumerate(site.segments.all), key=lambda s: _choices(s[1])):
        if segment.kind == "outside":
            behind = next((g.behind for g in site.net.groups_of[k] if g.behind), None)
            out += [Stand(behind, None, segment.name, None, "")] if behind else []
        if segment.kind in ("transit", "outside"):
            continue
        given = (a for a in _free_addresses(site, k) if a[0] not in handed)
        boxes: set[str] = set()
        for attachment in segment.attachments:
            spot = f"{attachment.box}:{attachment.port or attachment.name}"
            if attachment.kind != "edge" or spot in used or attachment.box in boxes:
                continue
            boxes.add(attachment.box)
            used.add(spot)
            address, gateway = next(given, ("", ""))
            handed.add(address)
            out.append(_stand(segment, attachment, spot, next(names), address, gateway))
            if len(boxes) == MOST_A_SEGMENT:
                break
        for host in [t for t in segment.attachments if t.kind == "endpoint"][:MOST_A_SEGMENT]:
            tag = None if host.form == UNTAGGED else host.form
            out.append(Stand(host.device, tag, segment.name, _vlan(segment), ""))
    return out


def _choices(segment: Segment) -> tuple[bool, int]:
    """Rank a segment: those that leave few ports to choose from first, so that they get one."""
    edges = [t for t in segment.attachments if t.kind == "edge"]
    return not edges, len(edges)


def _stand(segment: Segment, attachment: Attachment, spot: str, name: str, address: str, gateway: str) -> Stand:
    tag = None if attachment.form == UNTAGGED else attachment.form
    return Stand(spot, tag, segment.name, _vlan(segment), name, address, gateway)


def _vlan(segment: Segment) -> int | None:
    return segment.vlan_ids[0] if segment.vlan_ids else None


def _free_addresses(site: Site, segment: int) -> Iterator[tuple[str, str]]:
    """Yield (address with its length, gateway) that nobody has, the last ones that hosts of a segment may have."""
    for group in site.net.groups_of[segment]:
        if group.endpoint or group.behind or group.subnet.version != 4:
            continue
        for _, high in reversed(site.net.host_spans(group)):
            for number in range(high, max(high - DEEP, int(group.first) - 1), -1):
                yield f"{ip_address(number)}/{group.subnet.prefixlen}", str(group.gateway or "")


def with_laptops(tree: Tree, stands: list[Stand], lease: bool) -> Tree:
    """Return the document with a laptop at each place that is there still. What it held keeps its pointers.

    `lease`: they ask for an address; else each has the one it was given by hand.
    """
    out: Tree = dict(tree)
    known = {d["name"]: _places(d) for d in tree.get("devices", [])}
    known |= {u["name"]: _places(d) for d in tree.get("devices", []) for u in d.get("units", [])}
    held = {end for cable in tree.get("cables", []) for end in cable}
    devices, cables = list(tree.get("devices", [])), copy.copy(tree.get("cables", []))
    for stand in stands:
        box, _, port = stand.at.partition(":")
        if not stand.laptop or port not in known.get(box, ()) or stand.at in held:
            continue
        laptop: dict[str, Any] = {"name": stand.laptop, "kind": "endpoint", "ports": [{"name": "1"}]}
        own = [stand.address] if stand.address and not lease else []
        if stand.tag:
            laptop["ports"][0]["subinterfaces"] = [{"tag": stand.tag, "addresses": own}]
        else:
            laptop["addresses"] = own
        if lease:
            laptop["dhcp"] = True
        elif stand.gateway and own:
            laptop["gateway"] = stand.gateway
        devices.append(laptop)
        cables.append([stand.at, f"{stand.laptop}:1"])
    return out | {"devices": devices, "cables": cables}


def _places(device: Tree) -> set[str]:
    return {p["name"] for key in ("ports", "ssids") for p in device.get(key, [])}
