"""What every box tells whom about itself: services x interfaces, with those marked that strangers can ask."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Firewall
from anabasis.design.notation import pointer
from anabasis.findings import risky_answers
from anabasis.policy import holds_service, lease_servers
from anabasis.probe import MANAGEMENT
from anabasis.site import Site


@dataclass(frozen=True)
class AnswerCell:
    """What one interface answers of one service."""

    service: str
    interface: str
    sources: list[str]
    risky: bool
    """Visitors or strangers get an answer on a management service."""
    pointer: str


@dataclass(frozen=True)
class AnswerColumn:
    """One interface."""

    interface: str
    zone: str | None
    addresses: list[str]
    answers: str | None
    pointer: str


@dataclass(frozen=True)
class AnswersGrid:
    """One box."""

    device: str
    pointer: str
    services: list[str]
    columns: list[AnswerColumn]
    cells: list[AnswerCell]
    lists: list[str]
    """The lists an interface may be given."""
    open: bool
    """Whether an interface without a list answers everything, to everybody: so on any box but a firewall."""


def answers_grids(site: Site) -> list[AnswersGrid]:
    """Return the grid of every box with an address, in document order."""
    risky = {f.pointers[-1] for f in risky_answers(site)}
    boxes = ((d, x) for d, x in enumerate(site.design.devices) if isinstance(x, BridgingBox))
    grids = (_grid(site, device, d, risky) for d, device in boxes)
    return [g for g in grids if g.columns or isinstance(site.net.devices[g.device], Firewall)]


def _grid(site: Site, device: BridgingBox, d: int, risky: set[str]) -> AnswersGrid:
    lists = {a.name: (a, pointer("devices", d, "answers", i)) for i, a in enumerate(device.answers)}
    columns, cells = [], []
    serving = {s.interface: s for s in lease_servers(site.design) if s.device == device.name}
    for i in site.net.interfaces:
        if i.device != device.name or not i.addresses:
            continue
        columns.append(AnswerColumn(i.name, i.zone, [str(a.ip) for a in i.addresses], i.answers, i.pointer))
        if i.answers in lists:
            entry, at = lists[i.answers]
            for service in entry.services:
                spans = site.policies.terms.services([service])
                dangerous = i.pointer in risky and any(holds_service(spans, s) for s in MANAGEMENT.values())
                cells.append(AnswerCell(service, i.name, list(entry.sources), dangerous, at))
        elif site.policies.answered_by(i) is not None:
            cells.append(AnswerCell("every service", i.name, ["any"], i.pointer in risky, i.pointer))
        if i.name in serving:
            cells.append(AnswerCell("DHCP", i.name, ["any host on its link"], False, serving[i.name].pointer))
    columns.sort(key=lambda c: c.pointer not in risky)  # what strangers can ask stands first
    services = list(dict.fromkeys(c.service for c in cells))
    return AnswersGrid(
        device.name, pointer("devices", d), services, columns, cells, list(lists), not isinstance(device, Firewall)
    )
