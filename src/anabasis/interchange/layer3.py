"""The layer-3 part of a topology (RFC 8346): boxes that have addresses, their interfaces with them, and who is next door on which subnet."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import IPv4Interface, IPv6Interface, ip_address, ip_interface, ip_network
from typing import Any

from anabasis.design import Tree
from anabasis.errors import InputRefused, Problem
from anabasis.interchange.cells import as_list, words_of
from anabasis.interchange.interfaces import Interfaces
from anabasis.interchange.proposal import Unplaced
from anabasis.interchange.things import Work

TYPE, OF_NODE = "ietf-l3-unicast-topology:l3-unicast-topology", "ietf-l3-unicast-topology:l3-node-attributes"
OF_POINT = "ietf-l3-unicast-topology:l3-termination-point-attributes"
POINT, LINK = "ietf-network-topology:termination-point", "ietf-network-topology:link"
Standing = tuple[str, str, list[IPv4Interface | IPv6Interface]]
"""Box, interface, addresses."""


def write_layer3(tree: Tree) -> Tree | None:
    """Return the layer-3 network of a document, over the one of its cables; None where nothing has an address."""
    standing = list(_standing(tree))
    nodes: dict[str, Tree] = {}
    on: dict[str, list[tuple[str, str]]] = {}
    for box, interface, addresses in standing:
        node = nodes.setdefault(box, {"node-id": box, OF_NODE: {"prefix": []}, POINT: []})
        node[POINT].append({"tp-id": interface, OF_POINT: {"ip-address": [str(a.ip) for a in addresses]}})
        for network in dict.fromkeys(str(a.network) for a in addresses):
            if {"prefix": network} not in node[OF_NODE]["prefix"]:
                node[OF_NODE]["prefix"].append({"prefix": network})
            on.setdefault(network, []).append((box, interface))
    if not nodes:
        return None
    pairs = dict.fromkeys((a, b) for ends in on.values() for a in ends for b in ends if a[0] != b[0])
    links = [
        {
            "link-id": f"{a[0]}:{a[1]}--{b[0]}:{b[1]}",
            "source": {"source-node": a[0], "source-tp": a[1]},
            "destination": {"dest-node": b[0], "dest-tp": b[1]},
        }
        for a, b in pairs
    ]
    name = tree.get("name", "")
    return {
        "network-id": f"{name}, layer 3",
        "network-types": {TYPE: {}},
        "supporting-network": [{"network-ref": name}],
        "node": list(nodes.values()),
        LINK: links,
    }


def _standing(tree: Tree) -> Iterator[Standing]:
    for row in Interfaces().rows(tree):
        addresses = [ip_interface(a) for a in words_of(row["addresses"])]
        if addresses:
            yield row["device"], row["interface"], addresses


def is_layer3(network: Tree) -> bool:
    """Tell whether a network is one of layer 3."""
    types = network.get("network-types")
    return isinstance(types, dict) and TYPE in types


def read_layer3(work: Work, network: Tree, lost: dict[str, Unplaced]) -> int:
    """Give interfaces the addresses that a layer-3 network says they have; return how many have a place. An address is as long as the prefix of its box that holds it."""
    held = {(d, i): {str(a) for a in known} for d, i, known in _standing(work.tree)}
    placed = 0
    for node in network.get("node", []) if isinstance(network.get("node"), list) else []:
        for point in node.get(POINT, []) if isinstance(node, dict) and isinstance(node.get(POINT), list) else []:
            box, interface = str(node.get("node-id", "")), str(point.get("tp-id", ""))
            what = f"interface {box} {interface}"
            said = point.get(OF_POINT)
            wanted = [_long(a, node.get(OF_NODE)) for a in said.get("ip-address", [])] if isinstance(said, dict) else []
            if what in lost or not wanted:
                continue
            try:
                if set(wanted) != held.get((box, interface), set()):
                    Interfaces().place(work, {"device": box, "interface": interface, "addresses": as_list(wanted)})
                placed += 1
            except InputRefused as error:
                lost[what] = Unplaced(len(lost) + 1, what, error.problems[0])
    return placed


def _long(address: Any, node: Any) -> str:
    """Return an address with the length of the longest prefix of its box that holds it. Raises InputRefused for what is no address."""
    try:
        parsed = ip_address(str(address))
        listed = node.get("prefix", []) if isinstance(node, dict) else []
        nets = [ip_network(str(p.get("prefix")), strict=False) for p in listed if isinstance(p, dict)]
    except ValueError:
        raise InputRefused([Problem("ip-address", "this is no address, or no prefix", repr(address))]) from None
    fitting = [n.prefixlen for n in nets if n.version == parsed.version and parsed in n]
    return f"{parsed}/{max(fitting, default=parsed.max_prefixlen)}"
