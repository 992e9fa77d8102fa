"""The cabling as a network topology: RFC 8345 with layer-2 termination points of RFC 8944, and over it layer 3 (RFC 8346), in JSON (RFC 7951).

A box is a node, a port a termination point. A link of RFC 8345 leads one way (section 4.2), so a cable is two of them, and one suffices to
be read. What a module of the standards has no leaf for (the kind of a box, the device of a unit) stands under `anabasis-site:`.
"""

from __future__ import annotations

import copy
import json
from collections.abc import Iterator
from typing import Any

from anabasis.design import Tree, parse_design
from anabasis.design.devices import KINDS
from anabasis.design.edits import difference
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import Assumed, Assumption
from anabasis.interchange import layer3
from anabasis.interchange.layer3 import is_layer3, read_layer3, write_layer3
from anabasis.interchange.proposal import Proposal, Unplaced
from anabasis.interchange.things import Work

NETWORKS, NETWORK, NODE = "ietf-network:networks", "network", "node"
POINT, LINK = "ietf-network-topology:termination-point", "ietf-network-topology:link"
OF_POINT, TYPES = "ietf-l2-topology:l2-termination-point-attributes", "network-types"
BOX, SSID = "anabasis-site:box", "anabasis-site:ssid"
KNOWN = {
    "": {NETWORKS},
    NETWORKS: {NETWORK},
    NETWORK: {"network-id", TYPES, "supporting-network", NODE, LINK},
    NODE: {"node-id", POINT, BOX, layer3.OF_NODE},
    POINT: {"tp-id", OF_POINT, SSID, layer3.OF_POINT},
    layer3.OF_NODE: {"prefix"},
    layer3.OF_POINT: {"ip-address"},
    SSID: {"vlan"},
    OF_POINT: {"interface-name", "lag", "member-link-tp", "rate"},
    LINK: {"link-id", "source", "destination"},
    BOX: {"kind", "device"},
}
"""By container the members that are read; any other is told, and left."""


def write_topology(tree: Tree) -> str:
    """Return the boxes, ports and cables of a document."""
    nodes: list[Tree] = []
    for device in tree.get("devices", []):
        for unit in device.get("units") or [device]:
            own = {"kind": device["kind"]} | ({"device": device["name"]} if unit is not device else {})
            points = [
                *_points(device),
                *({"tp-id": s["name"], SSID: {"vlan": s["vlan"]}} for s in device.get("ssids", [])),
            ]
            nodes.append({"node-id": unit["name"], POINT: points, BOX: own})
    links = [link for cable in tree.get("cables", []) for link in _both_ways(*cable)]
    network = {
        "network-id": tree.get("name", ""),
        TYPES: {"ietf-l2-topology:l2-topology": {}},
        NODE: nodes,
        LINK: links,
    }
    above = write_layer3(tree)
    networks = [network, above] if above is not None else [network]
    return json.dumps({NETWORKS: {NETWORK: networks}}, ensure_ascii=False, indent=2) + "\n"


def _points(device: Tree) -> Iterator[Tree]:
    ports = device.get("ports", [])
    if not ports and device["kind"] in ("endpoint", "outside"):
        yield {"tp-id": "1"}
    for port in ports:
        told: Tree = {"rate": f"{port['speed_mbps']}.00"} if port.get("speed_mbps") else {}
        yield {"tp-id": port["name"], **({OF_POINT: told} if told else {})}
    for lag in device.get("lags", []):
        members = [p["name"] for p in ports if p.get("lag") == lag["name"]]
        yield {"tp-id": lag["name"], OF_POINT: {"lag": True, "member-link-tp": members}}


def _both_ways(one: str, two: str) -> Iterator[Tree]:
    for a, b in ((one, two), (two, one)):
        (node, _, point), (far, _, there) = a.partition(":"), b.partition(":")
        source, destination = {"source-node": node, "source-tp": point}, {"dest-node": far, "dest-tp": there}
        yield {"link-id": f"{a}--{b}", "source": source, "destination": destination}


def read_topology(text: str, tree: Tree) -> Proposal:
    """Return what reading a topology into a document would do: boxes and ports that are not there, and cables. Raises InputRefused for what is none.

    What it says that there is no place for is told, as an assumption that it does not matter; nothing is taken out.
    """
    try:
        raw = json.loads(text)
        networks = raw[NETWORKS][NETWORK]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise InputRefused(
            [Problem("", "this is no network topology", allowed=f"JSON with {NETWORKS} on top (RFC 8345)")]
        ) from None
    lost: dict[str, Unplaced] = {}
    before = -1
    while before != len(lost):
        before = len(lost)
        work, placed = Work(copy.deepcopy(tree)), 0
        for network in (n for n in _list(networks) if not is_layer3(n)):
            placed += sum(_node(work, node, lost) for node in _list(network.get(NODE)))
            placed += sum(_link(work, link, lost) for link in _list(network.get(LINK)))
        placed += sum(read_layer3(work, n, lost) for n in _list(networks) if is_layer3(n))
    parse_design(work.tree)
    foreign = [Assumption(Assumed.FOREIGN, name, str(n)) for name, n in _foreign(raw).items()]
    assumed = tuple(dict.fromkeys((*work.assumed, *foreign)))
    return Proposal("topology", difference(tree, work.tree), placed, tuple(lost.values()), assumed, (), (), 0)


def _list(value: Any) -> list[Tree]:
    return [v for v in value if isinstance(v, dict)] if isinstance(value, list) else []


def _node(work: Work, node: Tree, lost: dict[str, Unplaced]) -> bool:
    """Have a box of a node, and its ports; tell whether it has a place."""
    name, own = str(node.get("node-id", "")), node.get(BOX, {})
    box = _box(work.tree, name)
    if f"node {name}" in lost:
        return False
    if box is None:
        kind = own.get("kind", "switch") if isinstance(own, dict) else "switch"
        wanted = own.get("device", name) if isinstance(own, dict) else name
        if kind not in KINDS or not name:
            _lose(
                lost,
                f"node {name}",
                Problem("kind", "no kind of a box", repr(kind), ", ".join(KINDS), nearest(str(kind), KINDS)),
            )
            return False
        _, box = work.device(str(wanted), make=kind)
        if wanted != name:
            box.setdefault("units", []).append({"name": name})
    ports = box.setdefault("ports", [])
    known = {e["name"] for key in ("ports", "lags", "ssids") for e in box.get(key, [])}
    known |= {"1"} if not ports and box["kind"] in ("endpoint", "outside") else set()
    for point in _list(node.get(POINT)):
        said = point.get(OF_POINT, {})
        if str(point.get("tp-id", "")) not in {*known, ""}:
            key = "lags" if isinstance(said, dict) and said.get("lag") else "ports"
            air = point.get(SSID)
            if isinstance(air, dict) and isinstance(air.get("vlan"), int):
                work.vlan(air["vlan"])
                box.setdefault("ssids", []).append({"name": str(point["tp-id"]), "vlan": air["vlan"]})
            else:
                box.setdefault(key, []).append({"name": str(point["tp-id"])})
            known.add(str(point["tp-id"]))
            work.assumed.append(Assumption(Assumed.PORT, f"{name}:{point['tp-id']}"))
    if not ports:
        del box["ports"]
    return True


def _link(work: Work, link: Tree, lost: dict[str, Unplaced]) -> bool:
    """Have a cable of a link; the other way of it, and one that is there already, is the same one."""
    source, far = link.get("source", {}), link.get("destination", {})
    name = f"link {link.get('link-id', '')}"
    if name in lost:
        return False
    ends: list[str] = []
    for box, point in (
        (source.get("source-node"), source.get("source-tp")),
        (far.get("dest-node"), far.get("dest-tp")),
    ):
        device = _box(work.tree, str(box))
        if device is None or not point:
            names = [u["name"] for d in work.tree.get("devices", []) for u in d.get("units") or [d]]
            _lose(
                lost,
                name,
                Problem(
                    "node",
                    "a link leads to a box that is not there",
                    repr(str(box)),
                    ", ".join(names[:12]),
                    nearest(str(box), names),
                ),
            )
            return False
        ends.append(f"{box}:{point}")
    try:
        work.plug(ends[0], ends[1], ("source", "destination"))
    except InputRefused as error:
        _lose(lost, name, error.problems[0])
        return False
    return True


def _lose(lost: dict[str, Unplaced], what: str, problem: Problem) -> None:
    lost[what] = Unplaced(len(lost) + 1, what, problem)


def _box(tree: Tree, name: str) -> Tree | None:
    return next((d for d in tree.get("devices", []) for u in d.get("units") or [d] if u["name"] == name), None)


def _foreign(raw: Tree) -> dict[str, int]:
    """Return the members that nothing here reads, by what they are called, and how often they come."""
    out: dict[str, int] = {}
    todo: list[tuple[str, Any]] = [("", raw)]
    while todo:
        inside, value = todo.pop()
        for key, held in value.items() if isinstance(value, dict) else ():
            if inside in KNOWN and key not in KNOWN[inside]:
                out[key] = out.get(key, 0) + 1
            elif key in KNOWN:
                todo += [(key, one) for one in (held if isinstance(held, list) else [held])]
    return out
