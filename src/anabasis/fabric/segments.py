"""Broadcast domains and segments, computed from the flow of frames (docs/semantics.md, "Frames and segments").

A broadcast domain joins the attachments between which frames pass both ways (docs/semantics.md, "Links"). Filtering points inside a domain (inline
pairs, bridged ports of a firewall in different zones) divide it into **parts**, each a segment; where there is none, the domain is the segment.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from anabasis.design.devices import Outside
from anabasis.design.notation import Address, Network, parse_interface, parse_prefix, pointer
from anabasis.design.ports import TablePort, VirtualPort
from anabasis.design.references import port_names
from anabasis.design.vlans import Vlan
from anabasis.fabric.flow import Attachment, Fabric, Wire
from anabasis.once import once

SegmentKind = Literal["vlan", "transit", "line", "outside"]


@dataclass(frozen=True)
class Segment:
    """The largest part of a broadcast domain in which frames pass without crossing a filtering point."""

    name: str
    domain: int
    """Index of its broadcast domain; -1 for what lies behind an outside."""
    kind: SegmentKind
    """`vlan` for one or more VLANs, `transit` between routing devices, `line` for hosts on a wire without VLAN, `outside`."""
    subnets: tuple[str, ...]
    vlans: tuple[tuple[str, int], ...]
    """(box, VLAN) inside it."""
    vlan_ids: tuple[int, ...]
    """The VLANs of it, by id; more than one = merged."""
    attachments: tuple[Attachment, ...]
    island: bool
    """Another domain holds the same VLAN: it has fallen apart."""
    pointer: str
    """The plan entry, port or device it is best known by."""
    labels: tuple[str, ...]
    """Edge and interface attachments as box:port."""

    def as_dict(self) -> dict[str, Any]:
        """Return the segment for JSON (command-line promise, `segments`)."""
        return {
            "name": self.name,
            "kind": self.kind,
            "subnets": list(self.subnets),
            "vlans": [{"device": box, "vlan": vlan} for box, vlan in self.vlans],
            "vlan_ids": list(self.vlan_ids),
            "ports": list(self.labels),
            "domain": f"domain {self.domain}" if self.domain >= 0 else f"behind {self.name}",
            "island": self.island,
            "pointer": self.pointer,
        }


@dataclass(frozen=True)
class Segments:
    """All segments of a site, in the order of the plan; transits and outsides last."""

    fabric: Fabric
    all: tuple[Segment, ...]
    of_attachment: dict[int, int]
    """Attachment index -> segment index."""
    of_vlan: dict[tuple[str, int], int]
    """(box, VLAN) -> segment index."""

    @once
    def by_name(self) -> dict[str, int]:
        """Return segment index by name."""
        return {s.name: i for i, s in enumerate(self.all)}

    @once
    def planned(self) -> dict[int, list[Network]]:
        """Return the subnets of each VLAN of the plan, by its id."""
        return {v.id: [parse_prefix(n) for n in v.subnets] for v in self.fabric.design.vlans}

    @once
    def inside(self) -> list[Network]:
        """Return the subnets of all segments of the site, others' networks aside."""
        return [parse_prefix(n) for n in dict.fromkeys(n for s in self.all if s.kind != "outside" for n in s.subnets)]

    @once
    def _prefixes(self) -> dict[tuple[int, int], set[int]]:
        """Return the numbers of the prefixes of those subnets, by family and length of the rest of an address."""
        out: dict[tuple[int, int], set[int]] = {}
        for net in self.inside:
            rest = net.max_prefixlen - net.prefixlen
            out.setdefault((net.version, rest), set()).add(int(net.network_address) >> rest)
        return out

    def holds(self, address: Address) -> bool:
        """Tell whether an address lies in a subnet of some segment of the site."""
        number = int(address)
        return any(v == address.version and number >> rest in of for (v, rest), of in self._prefixes.items())

    def of(self, attachment: Attachment) -> int:
        """Return the index of the segment an attachment stands in."""
        return self.of_attachment[attachment.index]


def _joined(fabric: Fabric) -> tuple[dict[int, int], dict[int, int]]:
    """Return attachment index -> number of its part, and part -> number of its broadcast domain.

    Two attachments are of one part where frames pass between them both ways without crossing a filtering point, straight or by way of a
    third: hosts do not forward, so a port that hears one VLAN and speaks into another joins neither to the other. Parts between which frames
    pass both ways over filtering points are one domain. Cost: attachments x steps of a frame.
    """
    meeting = {t.index for t in fabric.attachments if t.port is None and fabric.meets(t.box, t.form)}
    links = [
        (attachment.index, other.index)
        for attachment in fabric.attachments
        for other in fabric.heard(attachment)
        if attachment.index < other.index
        and not {attachment.index, other.index} & meeting
        and attachment in fabric.heard(other)
    ]
    part = _components(links, len(fabric.attachments))
    for attachment in fabric.attachments:  # the interface of a VLAN that filters divide stands on the side that has the same VLAN, else with the first that hears it
        if attachment.index in meeting:
            near = [
                (attachment.form not in {v for _, v in _vlan_of(t, fabric)}, t.index) for t in fabric.heard(attachment)
            ]
            part[attachment.index] = part[min(near, default=(False, attachment.index))[1]]
    if not fabric.filters:
        return part, {p: p for p in part.values()}
    over = [
        (part[t.index], part[o.index])
        for t in fabric.attachments
        for o in fabric.attachments
        if part[t.index] < part[o.index] and fabric.delivers(t, o) and fabric.delivers(o, t)
    ]
    domain = _components(over, max(part.values(), default=-1) + 1)
    return part, {p: domain[p] for p in part.values()}


def _components(links: list[tuple[int, int]], size: int) -> dict[int, int]:
    """Return number -> number of its connected component."""
    heads, tails = [a for a, _ in links], [b for _, b in links]
    graph = csr_array((np.ones(len(links), dtype=np.int8), (heads, tails)), shape=(size, size))
    _, found = connected_components(graph, directed=False)
    return {k: int(found[k]) for k in range(size)}


def _vlan_of(attachment: Attachment, fabric: Fabric) -> set[tuple[str, int]]:
    """Return the (box, VLAN) an attachment's frames enter on a bridging box, if any."""
    if attachment.port is None:
        return set() if fabric.meets(attachment.box, attachment.form) else {(attachment.box, attachment.form)}
    return {
        node
        for step, _ in fabric.next(attachment)
        if not isinstance(step, Attachment) and (node := _inside(step, fabric))
    }


def _inside(wire: Wire, fabric: Fabric) -> tuple[str, int] | None:
    """Return the (box, VLAN) a frame is put into, where that is one piece of a segment."""
    port = fabric.ports[wire[0]]
    if not port.bridges or not port.forwarding or fabric.tables[port.box] is None:
        return None
    vlan, _ = fabric.classify(wire)
    return None if vlan is None or fabric.meets(port.box, vlan) else (port.box, vlan)


def _seen_from(box: str, vlan: int, fabric: Fabric) -> tuple[set[int], set[tuple[str, int]]]:
    """Return the attachments and the (box, VLAN)s that frames from inside a box's VLAN get to."""
    attachments: set[int] = set()
    inside: set[tuple[str, int]] = set()
    seen: set[Wire] = set()
    todo: list[Attachment | Wire] = [step for step, _ in fabric.flood(box, vlan, None)]
    while todo:
        node = todo.pop()
        if isinstance(node, Attachment):
            attachments.add(node.index)
        elif node not in seen:
            seen.add(node)
            there = _inside(node, fabric)
            if there is not None:
                inside.add(there)
            todo += [step for step, crossing in fabric.next(node) if crossing is None]
    return attachments, inside


def _group(
    fabric: Fabric, domain: dict[int, int]
) -> tuple[dict[int, list[Attachment]], dict[int, set[tuple[str, int]]]]:
    """Return attachments by part and (box, VLAN)s by part (`domain`: attachment -> part); trunk-only VLANs make parts of their own (negative numbers)."""
    attachments: dict[int, list[Attachment]] = defaultdict(list)
    vlans: dict[int, set[tuple[str, int]]] = defaultdict(set)
    placed: dict[tuple[str, int], int] = {}
    easy: dict[int, int] = {}
    for attachment in fabric.attachments:
        attachments[domain[attachment.index]].append(attachment)
        for node in _vlan_of(attachment, fabric):
            vlans[domain[attachment.index]].add(node)
            placed.setdefault(node, domain[attachment.index])
    for attachment in fabric.attachments:
        if attachment.index in fabric.easy.of_attachment:
            easy[fabric.easy.of_attachment[attachment.index]] = domain[attachment.index]
    for node, component in fabric.easy.of_node.items():
        if node not in placed and node in fabric.members:
            home = easy.setdefault(component, -1 - len(placed))
            vlans[home].add(node)
            placed[node] = home
            attachments.setdefault(home, [])
    loose = [node for node in fabric.members if node not in placed and not fabric.meets(*node)]
    near = {*loose, *(n for n in placed if n not in fabric.easy.of_node)} if loose else set()
    sees = {node: _seen_from(*node, fabric) for node in near}
    for node in sorted(loose):
        homes = {domain[t] for t in sees[node][0]} | {placed[n] for n in sees[node][1] if n in placed}
        back = {h for h in homes if any(node in sees[n][1] for n in vlans[h] if n in sees)}
        home = min(back, default=-1 - len(placed))
        vlans[home].add(node)
        placed[node] = home
        attachments.setdefault(home, [])
    return attachments, vlans


def compute_segments(fabric: Fabric) -> Segments:
    """Compute all segments of a fabric."""
    part, domain = _joined(fabric)
    attachments, vlans = _group(fabric, part)
    domain |= {p: p for p in attachments if p not in domain}
    plan = {v.id: (i, v) for i, v in enumerate(fabric.design.vlans)}
    holders: dict[int, list[int]] = defaultdict(list)
    for p, nodes in vlans.items():
        for vlan in {v for _, v in nodes}:
            holders[vlan].append(p)
    for vlan, domains in list(holders.items()):
        if any(attachments[d] for d in domains):  # the far end of a trunk without a host is no island worth a name
            holders[vlan] = [d for d in domains if attachments[d]]
    kept = [d for d in attachments if attachments[d] or any(d in holders[v] for _, v in vlans[d])]
    beside = _beside(fabric, attachments, vlans, domain, holders)
    said = {p: {v for _, v in vlans[p]} | set(beside[p]) for p in kept}
    subnets = _subnets(kept, domain, attachments, said, plan)
    found = [
        _segment(fabric, d, domain, attachments[d], vlans[d], plan, holders, subnets[domain[d]], beside[d])
        for d in kept
    ]
    found.sort(key=lambda s: ({"vlan": 0, "line": 1, "transit": 2}[s.kind], s.vlan_ids, s.name))
    found += [_outside(i, d, fabric) for i, d in enumerate(fabric.design.devices) if isinstance(d, Outside)]
    found = _distinct(found)
    of_attachment = {t.index: i for i, s in enumerate(found) for t in s.attachments if s.kind != "outside"}
    of_vlan = {node: i for i, s in enumerate(found) for node in s.vlans}
    return Segments(fabric, tuple(found), of_attachment, of_vlan)


def _beside(
    fabric: Fabric,
    attachments: dict[int, list[Attachment]],
    vlans: dict[int, set[tuple[str, int]]],
    domain: dict[int, int],
    holders: dict[int, list[int]],
) -> dict[int, tuple[int, ...]]:
    """Return the VLANs that a part without one of its own belongs to: that of the filtered port it stands at, else those on the near side of its filter."""
    out: dict[int, tuple[int, ...]] = {}
    for part, mine in attachments.items():
        found: set[int] = set()
        for attachment in mine if not vlans[part] else []:
            wires = [step for step, _ in fabric.next(attachment) if not isinstance(step, Attachment)]
            found |= {v for wire in wires if (v := _met(wire, fabric)) is not None}
            found |= {attachment.form} if attachment.port is None else set()
        if not vlans[part] and not found:
            found = {v for v, parts in holders.items() if any(domain[p] == domain[part] for p in parts)}
        out[part] = tuple(sorted(found))
    return out


def _met(wire: Wire, fabric: Fabric) -> int | None:
    """Return the VLAN a frame is put into where filtering points divide it."""
    port = fabric.ports[wire[0]]
    if not port.bridges or not port.forwarding or fabric.tables[port.box] is None:
        return None
    vlan, _ = fabric.classify(wire)
    return vlan


def _segment(
    fabric: Fabric,
    part: int,
    domain: dict[int, int],
    attachments: list[Attachment],
    nodes: set[tuple[str, int]],
    plan: dict[int, tuple[int, Vlan]],
    holders: dict[int, list[int]],
    subnets: tuple[str, ...],
    beside: tuple[int, ...],
) -> Segment:
    ids = tuple(sorted({v for _, v in nodes if part in holders[v]} or {v for _, v in nodes}))
    island = any(len({domain[p] for p in holders[v]}) > 1 for v in ids)
    shared = any(len(holders[v]) > 1 for v in ids)
    kind: SegmentKind
    names = [plan[v][1].name if v in plan else f"vlan{v}" for v in ids]
    if ids:
        name = "+".join(names)
        kind = "transit" if _only_routers(attachments, fabric) else "vlan"
        if shared:
            name += "@" + _place(attachments, nodes)
        where = pointer("vlans", plan[ids[0]][0]) if ids[0] in plan else attachments[0].pointer if attachments else ""
    else:
        labels = sorted(_called(t) for t in attachments)
        known = sorted(plan[v][1].name for v in beside if v in plan)
        kind = "transit" if all(t.kind in ("interface", "outside") for t in attachments) else "line"
        alone = next((t for t in attachments if isinstance(t.settings, VirtualPort) and t.settings.alone), None)
        kind = "line" if alone is not None else kind
        labels = [alone.name] if alone is not None else labels
        name, where = "--".join(labels[:2]) + ("…" if len(labels) > 2 else ""), attachments[0].pointer
        if known:  # the far side of a filter without VLANs of its own belongs to the VLAN on the near side
            name = "+".join(known) + "@" + _place(attachments, nodes)
            ids, where = (
                tuple(v for v in beside if v in plan),
                pointer("vlans", plan[beside[0]][0]) if beside[0] in plan else where,
            )
    return Segment(
        name,
        domain[part],
        kind,
        subnets,
        tuple(sorted(nodes)),
        ids,
        tuple(attachments),
        island,
        where,
        _labels(attachments, fabric),
    )


def _called(attachment: Attachment) -> str:
    """Return what names a link by an end of it: the port, or of an overlay the box and its table."""
    table = isinstance(attachment.settings, TablePort)
    return f"{attachment.box} {attachment.settings.vrf}" if table and attachment.settings else attachment.label


def _only_routers(attachments: list[Attachment], fabric: Fabric) -> bool:
    """Tell whether a VLAN only leads from one routing device to another: no port of it takes a host."""
    routing = {t.device for t in attachments if getattr(fabric.devices[t.box], "routing", True)}
    return all(t.kind in ("interface", "outside") for t in attachments) and len(routing) > 1


def _place(attachments: list[Attachment], nodes: set[tuple[str, int]]) -> str:
    """Return the box an island is best known by: that with most of its hosts, then most of its VLAN, then first by name."""
    weight: dict[str, tuple[int, int]] = {}
    for box, _ in nodes:
        weight[box] = (sum(t.box == box and t.kind == "edge" for t in attachments), sum(n[0] == box for n in nodes))
    for attachment in attachments if not nodes else []:
        weight.setdefault(attachment.box, (0, 0))
    return min(weight, key=lambda box: ([-n for n in weight[box]], box))


def _subnets(
    kept: list[int],
    domain: dict[int, int],
    attachments: dict[int, list[Attachment]],
    vlans: dict[int, set[int]],
    plan: dict[int, tuple[int, Vlan]],
) -> dict[int, tuple[str, ...]]:
    """Return domain -> its subnets: those of the layer-3 interfaces in it and of the plan (docs/semantics.md, "Frames and segments")."""
    nets: dict[int, set[Network]] = defaultdict(set)
    for part in kept:
        here = nets[domain[part]]
        here |= {parse_prefix(n) for v in vlans[part] if v in plan for n in plan[v][1].subnets}
        for attachment in attachments[part]:
            if attachment.kind in ("interface", "outside") and attachment.settings:
                here |= {parse_interface(a).network for a in attachment.settings.addresses}
            if isinstance(attachment.settings, VirtualPort):
                here |= {parse_prefix(p) for p in attachment.settings.beyond}
    order = {
        d: sorted(found, key=lambda n: (n.version, int(n.network_address), n.prefixlen)) for d, found in nets.items()
    }
    return {d: tuple(map(str, found)) for d, found in order.items()}


def _labels(attachments: list[Attachment], fabric: Fabric) -> tuple[str, ...]:
    labels = {t.label for t in attachments}
    for attachment in attachments:
        if attachment.kind == "endpoint" and attachment.port:
            peer = fabric.ports[attachment.box, attachment.port].peer
            if peer and fabric.ports[peer].bridges and fabric.tables[peer[0]] is not None:
                labels.add(f"{peer[0]}:{peer[1]}")
    return tuple(sorted(labels, key=natural))


def natural(text: str) -> tuple[tuple[int, int, str], ...]:
    """Return a sorting key that puts port 9 before port 10."""
    parts: list[tuple[int, int, str]] = []
    word = ""
    for char in text + "\0":
        if word and char.isdigit() != word[-1].isdigit():
            parts.append((0, int(word), "") if word.isdigit() else (1, 0, word))
            word = ""
        word += char
    return tuple(parts)


def _outside(index: int, device: Outside, fabric: Fabric) -> Segment:
    attachments = tuple(t for t in fabric.attachments if t.device == device.name)
    port = f"{device.name}:{port_names(device)[0]}"
    return Segment(
        device.name,
        -1,
        "outside",
        tuple(device.prefixes),
        (),
        (),
        attachments,
        False,
        pointer("devices", index),
        (port,),
    )


def _distinct(segments: list[Segment]) -> list[Segment]:
    """Give every segment a name of its own: two islands on one box get a number."""
    seen: dict[str, int] = defaultdict(int)
    out = []
    for segment in segments:
        seen[segment.name] += 1
        count = seen[segment.name]
        out.append(segment if count == 1 else replace(segment, name=f"{segment.name}#{count}"))
    return out


__all__ = ["Segment", "Segments", "compute_segments", "natural"]
