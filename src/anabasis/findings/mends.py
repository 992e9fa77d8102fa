"""Edits that mend what a break names: the port that lacks a VLAN, the switch that is off. Each is tried before it is offered."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import chain

from anabasis.design import Patch, apply, set_membership
from anabasis.design.ports import AirPort
from anabasis.errors import InputRefused, UnknownPlace
from anabasis.fabric import Attachment, Break, build_fabric
from anabasis.facts import Cause, Wrong
from anabasis.failover import stand
from anabasis.site import Site, find_place
from anabasis.trace import walk
from anabasis.verdicts import Shown


def mend_of(site: Site, obstacle: Break, start: Attachment, goal: Attachment) -> Patch | None:
    """Return the one edit after which frames pass from `start` to `goal`, or None where it takes more than one.

    Cost: one fabric built anew a candidate, of which there are two at most.
    """
    raw = site.written
    for patch in chain(_as_the_far_end(site, obstacle), _candidates(site, obstacle)):
        try:
            _, mended = apply(raw, patch, site.design)
        except InputRefused:
            continue
        fabric = build_fabric(mended)
        attachments = {(t.box, t.name, t.form): t for t in fabric.attachments}
        ends = attachments.get((start.box, start.name, start.form)), attachments.get((goal.box, goal.name, goal.form))
        if ends[0] and ends[1] and fabric.delivers(ends[0], ends[1]) and fabric.delivers(ends[1], ends[0]):
            return patch
    return None


def first_that_helps(site: Site, patches: Iterable[Patch], shown: Shown, by_rules: bool = True) -> Patch | None:
    """Return the first edit after which the packet shown arrives and its reply comes back, or only rules stop it (`by_rules`).

    Cost: one site built anew a candidate.
    """
    raw = site.written
    for patch in patches:
        try:
            mended = stand(apply(raw, patch, site.design)[1], before=site)
            ends = (find_place(mended, str(p.address)).of(p.address.version) for p in (shown.source, shown.target))
            source, target = ends
        except (InputRefused, UnknownPlace):
            continue
        if source is not None and target is not None:
            went = walk(mended, source, target, shown.service)
            if went.outcome != "stopped" or (by_rules and went.layer == "rule"):
                return patch
    return None


def _as_the_far_end(site: Site, obstacle: Break) -> Iterator[Patch]:
    """Yield, for a port that says nothing of VLANs, the edit that lets it carry what the port at the far end of its cable carries."""
    port = obstacle.port
    if port is None or not port.peer or port.settings.member_of or port.settings.pvid is not None:
        return
    far = site.fabric.ports[port.peer].settings
    said = {"pvid": far.pvid, "untagged": far.untagged, "tagged": far.tagged}
    patch: Patch = [{"op": "add", "path": f"{port.pointer}/{k}", "value": v} for k, v in said.items() if v]
    if patch and not far.translate:
        yield patch


def _candidates(site: Site, obstacle: Break) -> Iterator[Patch]:
    port, raw = obstacle.port, site.written
    if port is not None and obstacle.vlan is not None and isinstance(port.settings, AirPort):
        yield [{"op": "replace", "path": f"{port.pointer}/vlan", "value": obstacle.vlan}]  # one VLAN, without tags
    elif port is not None and obstacle.vlan is not None:
        yield set_membership(raw, port.device, port.settings.name, obstacle.vlan, "tagged")
        yield set_membership(raw, port.device, port.settings.name, obstacle.vlan, "untagged")
    else:
        yield from switched_on(obstacle.cause)


def switched_on(cause: Cause) -> Iterator[Patch]:
    """Yield the edit that switches on what a cause names as switched off, undoes a plain setting, or says what was left unsaid."""
    root = cause.root
    first = root.guilty[0] if root.guilty else ""
    match root.wrong:
        case Wrong.DISABLED | Wrong.ROUTE_OFF | Wrong.RULE_OFF:
            yield [{"op": "replace", "path": first, "value": True}]
        case Wrong.ROUTING_OFF:
            yield [{"op": "add", "path": first, "value": True}]
        case Wrong.DEFAULT_UNTOLD:
            yield [{"op": "add", "path": first, "value": "when-known"}]
        case Wrong.PREFIX_UNTOLD:
            entry = {"interface": root.value("interface"), "area": root.value("area"), "passive": True}
            yield [{"op": "add", "path": f"{first}/interfaces/-", "value": entry}]
        case Wrong.SERVER_OFF:
            yield [{"op": "replace", "path": first, "value": "server"}]
        case Wrong.OFF:
            yield [{"op": "remove", "path": f"{first}/mode"}]
