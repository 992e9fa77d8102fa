"""The easy part of layer 2, all at once: VLANs whose links pass frames both ways, the same VLAN at each end of a cable.

A node is a (box, VLAN). Where every link of a node is **paired** (what leaves by it comes back by it into the same node) and nothing
filters, repeats or keeps apart, frames pass between two nodes if and only if paired links join them: no path needs a port twice, so "never back
out of the ingress port" changes nothing. A component that touches anything else is **odd**, and its frames are followed one by one.
A law in the tests holds this against following every frame.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.links import Spot

if TYPE_CHECKING:
    from anabasis.fabric.flow import Attachment, Fabric

Node = tuple[str, int]


@dataclass(frozen=True)
class Components:
    """Components without anything odd."""

    of_node: dict[Node, int]
    """(box, VLAN) -> its component; nodes of odd components are left out."""
    of_attachment: dict[int, int]
    """Attachment index -> its component, likewise."""
    attachments: dict[int, frozenset[Attachment]]
    """Component -> the attachments in it, each of which hears all others."""


def easy_components(fabric: Fabric) -> Components:
    """Return the components without anything odd. Cost: linear in (port, VLAN) memberships."""
    nodes = {node: k for k, node in enumerate(fabric.members)}
    for attachment in fabric.attachments:
        if attachment.port is None:
            nodes.setdefault((attachment.box, attachment.form), len(nodes))
    links: list[tuple[int, int]] = []
    odd: set[int] = set()
    home: dict[int, set[int]] = defaultdict(set)
    for node, members in fabric.members.items():
        if fabric.devices[node[0]].kind == "firewall" or sum(p.settings.isolated for p, _ in members) > 1:
            odd.add(nodes[node])
        for port, form in members:
            _follow(fabric, nodes, node, port, form, links, odd, home)
    _settle_attachments(fabric, nodes, odd, home)
    ends = np.array(links, dtype=np.int64).reshape(-1, 2)
    graph = csr_array((np.ones(len(links), dtype=np.int8), (ends[:, 0], ends[:, 1])), shape=(len(nodes), len(nodes)))
    _, labels = connected_components(graph, directed=False)
    bad = {int(labels[k]) for k in odd}
    of_node = {node: int(labels[k]) for node, k in nodes.items() if int(labels[k]) not in bad}
    of_attachment = {t: int(labels[min(k)]) for t, k in home.items() if int(labels[min(k)]) not in bad}
    inside: dict[int, set[Attachment]] = defaultdict(set)
    for attachment in fabric.attachments:
        if attachment.index in of_attachment:
            inside[of_attachment[attachment.index]].add(attachment)
    return Components(of_node, of_attachment, {c: frozenset(found) for c, found in inside.items()})


def _follow(
    fabric: Fabric,
    nodes: dict[Node, int],
    node: Node,
    port: LinkPort,
    form: int,
    links: list[tuple[int, int]],
    odd: set[int],
    home: dict[int, set[int]],
) -> None:
    """See where frames of a node go that leave by one port in one form, and whether they would come back into it."""
    here = nodes[node]
    edge = fabric.at_port.get((port.spot, form))
    if edge is not None and edge.kind == "edge":
        home[edge.index].add(here)
    if not port.up or port.peer is None:
        return
    far = fabric.ports[port.peer]
    if not far.bridges:
        attachment = fabric.at_port.get((far.spot, form))
        if far.spot in fabric.inline_pairs:
            odd.add(here)
        elif attachment is not None:
            home[attachment.index].add(here)
        return
    there = _enters(fabric, far.spot, form)
    if there is None or not far.forwarding:
        return
    returned = None if there not in nodes else next((f for p, f in fabric.members.get(there, []) if p is far), None)
    if returned is None or _enters(fabric, port.spot, returned) != node:
        odd.add(here)
        if there in nodes:
            odd.add(nodes[there])
        return
    links.append((here, nodes[there]))


def _enters(fabric: Fabric, spot: Spot, form: int) -> Node | None:
    """Return the node a frame is put into that enters a bridged port; a hub has no nodes, so what enters it is odd."""
    vlan, _ = fabric.classify((spot, form))
    return None if vlan is None else (spot[0], vlan)


def _settle_attachments(fabric: Fabric, nodes: dict[Node, int], odd: set[int], home: dict[int, set[int]]) -> None:
    """Check that every attachment speaks into the node it hears, and nowhere else; what does not makes its nodes odd."""
    for attachment in fabric.attachments:
        if attachment.port is None:
            home[attachment.index] = {nodes[attachment.box, attachment.form]}
            continue
        if attachment.kind == "edge":
            into = _enters(fabric, (attachment.box, attachment.port), attachment.form)
        else:
            line = fabric.ports[attachment.box, attachment.port]
            far = fabric.ports[line.peer] if line.up and line.peer else None
            if far is not None and far.spot in fabric.inline_pairs:
                home.pop(attachment.index, None)
                continue
            into = (
                _enters(fabric, far.spot, attachment.form)
                if far is not None and far.bridges and far.forwarding
                else None
            )
        spoken = nodes.get(into) if into is not None else None
        heard = home.get(attachment.index, set())
        if heard != {spoken}:
            home.pop(attachment.index, None)
            odd |= heard | ({spoken} if spoken is not None else set())
