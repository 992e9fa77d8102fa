"""The boxes' own addresses, apart from the matrix: what each segment may ask of a box itself (docs/semantics.md, "Policy")."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anabasis.allpairs import Sweep
from anabasis.classes import FlowSet, Mask, ServiceAtoms, boxes_of
from anabasis.design.devices import Outside
from anabasis.design.notation import Address
from anabasis.policy import AnswerList
from anabasis.routing import HostGroup, Intervals, L3Interface, intersect
from anabasis.site import host_place, number_to_address, own_place
from anabasis.trace import walk
from anabasis.verdicts import Verdicts, read_flows


@dataclass(frozen=True)
class OwnColumn:
    """One address of a box."""

    device: str
    interface: str
    address: str
    answers: str
    """The list; empty = the box has none there and answers everything, to everybody."""
    pointer: str


@dataclass(frozen=True)
class OwnCell:
    """What one segment may ask of one such address, and is answered; nothing of it = no cell."""

    segment: str
    column: int
    flows: list[dict[str, str]]


@dataclass(frozen=True)
class OwnAddresses:
    """Segments against the boxes' own addresses."""

    columns: list[OwnColumn]
    segments: list[str]
    cells: list[OwnCell]


def own_addresses(verdicts: Verdicts) -> OwnAddresses:
    """Return what is answered, exactly. Cost: a walk for each source class and service that an answers list tells apart."""
    sweep = verdicts.sweep
    site = sweep.site
    columns: list[OwnColumn] = []
    cells: list[OwnCell] = []
    shown = [k for k, s in enumerate(site.segments.all) if s.kind != "transit" and s.attachments]
    for interface in site.net.interfaces:
        answers = site.policies.answered_by(interface)
        if answers is None or isinstance(site.net.devices[interface.device], Outside):
            continue
        for own in (*(a.ip for a in interface.addresses), *interface.units):
            at = len(columns)
            columns.append(OwnColumn(interface.device, interface.name, str(own), answers.name, interface.pointer))
            for k in shown:
                flows = _answered(sweep, k, interface, own, answers)
                if flows:
                    cells.append(OwnCell(site.segments.all[k].name, at, read_flows(sweep, k, k, flows)))
    return OwnAddresses(columns, [site.segments.all[k].name for k in shown], cells)


def _answered(sweep: Sweep, segment: int, interface: L3Interface, own: Address, answers: AnswerList) -> FlowSet:
    """Return the flows from a segment to an address of a box that are answered."""
    site = sweep.site
    target = own_place(site, interface, own)
    version = target.address.version
    atoms = ServiceAtoms([answers.services, *(r.services for p in site.policies.of.values() for r in p.rules)])
    able = np.flatnonzero(atoms.mask(answers.services) & atoms.of_family(version))
    pieces: list[Intervals] = []
    passed: list[Mask] = []
    for group in (g for g in site.net.groups_of[segment] if g.subnet.version == version):
        for piece in _pieces(sweep, group, answers):
            source = host_place(site, group, number_to_address(version, piece[0][0]))
            row = np.zeros(len(atoms.atoms), dtype=bool)
            for v in able if source is not None else ():
                row[v] = source is not None and walk(site, source, target, atoms.atoms[v][0][:2]).outcome == "answered"
            pieces.append(piece)
            passed.append(row)
    number = int(target.address)
    allowed = np.array(passed, dtype=bool).reshape(len(pieces), 1, len(atoms.atoms))
    return FlowSet(tuple(boxes_of(version, pieces, [[(number, number)]], atoms, allowed, answers.services)))


def _pieces(sweep: Sweep, group: HostGroup, answers: AnswerList) -> list[Intervals]:
    """Return the addresses of a group in pieces that neither rules nor the answers list tell apart; those it speaks of only."""
    family = sweep.families[group.subnet.version]
    g = family.groups.index(group)
    permitted = [(low, high) for f, low, high in answers.sources if f == group.subnet.version]
    found = [intersect(family.classes.intervals[c], permitted) for c in family.members[g]]
    return [f for f in found if f]
