"""Broadcast domains and segments, computed from the flow of frames (concepts, section 3).

A broadcast domain joins the taps between which frames pass both ways (concepts, section 10). Filtering points inside a domain will
split it into several segments (inline pairs, transparent boundaries); where there is none, the domain is the segment.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from anabasis.design.devices import Outside
from anabasis.design.notation import parse_interface, parse_prefix, pointer
from anabasis.design.references import port_names
from anabasis.design.vlans import Vlan
from anabasis.fabric.flow import Fabric, Tap, Wire


@dataclass(frozen=True)
class Segment:
    """The largest part of a broadcast domain in which frames pass without crossing a filtering point."""

    name: str
    domain: int
    """Index of its broadcast domain; -1 for what lies behind an outside."""
    kind: str
    """`vlan` for one or more VLANs, `transit` between routing devices, `line` for hosts on a wire without VLAN, `outside`."""
    subnets: tuple[str, ...]
    vlans: tuple[tuple[str, int], ...]
    """(box, VLAN) inside it."""
    vlan_ids: tuple[int, ...]
    """The VLANs of it, by id; more than one = merged."""
    taps: tuple[Tap, ...]
    island: bool
    """Another segment holds the same VLAN."""
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
    of_tap: dict[int, int]
    """Tap index -> segment index."""
    of_vlan: dict[tuple[str, int], int]
    """(box, VLAN) -> segment index."""

    @cached_property
    def by_name(self) -> dict[str, int]:
        """Return segment index by name."""
        return {s.name: i for i, s in enumerate(self.all)}

    @cached_property
    def behind(self) -> dict[str, int]:
        """Return the index of the segment behind an outside, by device."""
        return {s.name: i for i, s in enumerate(self.all) if s.kind == "outside"}

    def of(self, tap: Tap) -> int:
        """Return the index of the segment a tap stands in."""
        return self.of_tap[tap.index]


def _domains(fabric: Fabric) -> dict[int, int]:
    """Return tap index -> number of its broadcast domain.

    Two taps are of one domain where frames pass between them both ways, straight or by way of a third: hosts do not forward, so
    a port that hears one VLAN and speaks into another joins neither to the other. Cost: taps x steps of a frame.
    """
    heads, tails = [], []
    for tap in fabric.taps:
        for other in fabric.heard(tap):
            if tap.index < other.index and tap in fabric.heard(other):
                heads.append(tap.index)
                tails.append(other.index)
    size = len(fabric.taps)
    graph = csr_array((np.ones(len(heads), dtype=np.int8), (heads, tails)), shape=(size, size))
    _, part = connected_components(graph, directed=False)
    return {tap.index: int(part[tap.index]) for tap in fabric.taps}


def _vlan_of(tap: Tap, fabric: Fabric) -> set[tuple[str, int]]:
    """Return the (box, VLAN) a tap's frames enter on a bridging box, if any."""
    found = set()
    if tap.port is None:
        return {(tap.box, tap.form)}
    for step in [((tap.box, tap.port), tap.form)] if tap.kind == "edge" else list(fabric.next(tap)):
        if not isinstance(step, Tap):
            port = fabric.ports[step[0]]
            vlan, _ = fabric.classify(step) if port.bridges and port.forwarding else (None, "")
            if vlan is not None and fabric.tables[port.box] is not None:
                found.add((port.box, vlan))
    return found


def _seen_from(box: str, vlan: int, fabric: Fabric) -> tuple[set[int], set[tuple[str, int]]]:
    """Return the taps and the (box, VLAN)s that frames from inside a box's VLAN get to."""
    taps: set[int] = set()
    inside: set[tuple[str, int]] = set()
    seen: set[Wire] = set()
    todo: list[Tap | Wire] = list(fabric.flood(box, vlan, None))
    while todo:
        node = todo.pop()
        if isinstance(node, Tap):
            taps.add(node.index)
        elif node not in seen:
            seen.add(node)
            port = fabric.ports[node[0]]
            if port.bridges and port.forwarding and fabric.tables[port.box] is not None:
                there, _ = fabric.classify(node)
                if there is not None:
                    inside.add((port.box, there))
            todo += fabric.next(node)
    return taps, inside


def _group_by_domain(fabric: Fabric) -> tuple[dict[int, list[Tap]], dict[int, set[tuple[str, int]]]]:
    """Return taps by domain and (box, VLAN)s by domain; trunk-only VLANs make domains of their own (negative numbers)."""
    domain = _domains(fabric)
    taps: dict[int, list[Tap]] = defaultdict(list)
    vlans: dict[int, set[tuple[str, int]]] = defaultdict(set)
    placed: dict[tuple[str, int], int] = {}
    for tap in fabric.taps:
        taps[domain[tap.index]].append(tap)
        for node in _vlan_of(tap, fabric):
            vlans[domain[tap.index]].add(node)
            placed.setdefault(node, domain[tap.index])
    loose = [node for node in fabric.members if node not in placed]
    sees = {node: _seen_from(*node, fabric) for node in {*loose, *placed}} if loose else {}
    for node in sorted(loose):
        homes = {domain[t] for t in sees[node][0]} | {placed[n] for n in sees[node][1] if n in placed}
        back = {h for h in homes if any(node in sees[n][1] for n in vlans[h] if n in sees)}
        home = min(back, default=-1 - len(placed))
        vlans[home].add(node)
        placed[node] = home
        taps.setdefault(home, [])
    return taps, vlans


def compute_segments(fabric: Fabric) -> Segments:
    """Compute all segments of a fabric."""
    taps, vlans = _group_by_domain(fabric)
    plan = {v.id: (i, v) for i, v in enumerate(fabric.design.vlans)}
    holders: dict[int, list[int]] = defaultdict(list)
    for domain, nodes in vlans.items():
        for vlan in {v for _, v in nodes}:
            holders[vlan].append(domain)
    for vlan, domains in list(holders.items()):
        if any(taps[d] for d in domains):  # the far end of a trunk without a host is no island worth a name
            holders[vlan] = [d for d in domains if taps[d]]
    kept = [d for d in taps if taps[d] or any(d in holders[v] for _, v in vlans[d])]
    found = [_segment(fabric, d, taps[d], vlans[d], plan, holders) for d in kept]
    found.sort(key=lambda s: ({"vlan": 0, "line": 1, "transit": 2}[s.kind], s.vlan_ids, s.name))
    found += [_outside(i, d, fabric) for i, d in enumerate(fabric.design.devices) if isinstance(d, Outside)]
    found = _distinct(found)
    of_tap = {t.index: i for i, s in enumerate(found) for t in s.taps if s.kind != "outside"}
    of_vlan = {node: i for i, s in enumerate(found) for node in s.vlans}
    return Segments(fabric, tuple(found), of_tap, of_vlan)


def _segment(
    fabric: Fabric,
    domain: int,
    taps: list[Tap],
    nodes: set[tuple[str, int]],
    plan: dict[int, tuple[int, Vlan]],
    holders: dict[int, list[int]],
) -> Segment:
    ids = tuple(sorted({v for _, v in nodes if domain in holders[v]} or {v for _, v in nodes}))
    island = any(len(holders[v]) > 1 for v in ids)
    names = [plan[v][1].name if v in plan else f"vlan{v}" for v in ids]
    if ids:
        name, kind = "+".join(names), "transit" if _only_routers(taps, fabric) else "vlan"
        if island:
            name += "@" + _place(taps, nodes)
        where = pointer("vlans", plan[ids[0]][0]) if ids[0] in plan else taps[0].pointer if taps else ""
    else:
        labels = sorted(f"{t.box}:{t.name}" for t in taps)
        kind = "transit" if all(t.kind in ("interface", "outside") for t in taps) else "line"
        name, where = "--".join(labels[:2]) + ("…" if len(labels) > 2 else ""), taps[0].pointer
    return Segment(
        name,
        domain,
        kind,
        _subnets(taps, ids, plan),
        tuple(sorted(nodes)),
        ids,
        tuple(taps),
        island,
        where,
        _labels(taps, fabric),
    )


def _only_routers(taps: list[Tap], fabric: Fabric) -> bool:
    """Tell whether a VLAN only leads from one routing device to another: no port of it takes a host."""
    routing = {t.device for t in taps if getattr(fabric.devices[t.box], "routing", True)}
    return all(t.kind in ("interface", "outside") for t in taps) and len(routing) > 1


def _place(taps: list[Tap], nodes: set[tuple[str, int]]) -> str:
    """Return the box an island is best known by: that with most of its hosts, then most of its VLAN, then first by name."""
    weight: dict[str, tuple[int, int]] = {}
    for box, _ in nodes:
        weight[box] = (sum(t.box == box and t.kind == "edge" for t in taps), sum(n[0] == box for n in nodes))
    for tap in taps if not nodes else []:
        weight.setdefault(tap.box, (0, 0))
    return min(weight, key=lambda box: ([-n for n in weight[box]], box))


def _subnets(taps: Iterable[Tap], ids: tuple[int, ...], plan: dict[int, tuple[int, Vlan]]) -> tuple[str, ...]:
    texts = {s for v in ids if v in plan for s in plan[v][1].subnets}
    nets = {parse_prefix(s) for s in texts}
    for tap in taps:
        if tap.kind in ("interface", "outside") and tap.settings:
            nets |= {parse_interface(a).network for a in tap.settings.addresses}
    return tuple(str(n) for n in sorted(nets, key=lambda n: (n.version, int(n.network_address), n.prefixlen)))


def _labels(taps: list[Tap], fabric: Fabric) -> tuple[str, ...]:
    labels = {t.label for t in taps}
    for tap in taps:
        if tap.kind == "endpoint" and tap.port:
            peer = fabric.ports[tap.box, tap.port].peer
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
    taps = tuple(t for t in fabric.taps if t.device == device.name)
    port = f"{device.name}:{port_names(device)[0]}"
    return Segment(
        device.name, -1, "outside", tuple(device.prefixes), (), (), taps, False, pointer("devices", index), (port,)
    )


def _distinct(segments: list[Segment]) -> list[Segment]:
    """Give every segment a name of its own: two islands on one box get a number."""
    seen: dict[str, int] = defaultdict(int)
    out = []
    for segment in segments:
        seen[segment.name] += 1
        count = seen[segment.name]
        out.append(segment if count == 1 else Segment(**{**segment.__dict__, "name": f"{segment.name}#{count}"}))
    return out


__all__ = ["Segment", "Segments", "compute_segments", "natural"]
