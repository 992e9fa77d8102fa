"""Who stands where in every pair under given conditions: claims read off the layers below, then the election."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.design.notation import parse_address
from anabasis.fabric import ALL_WELL, Conditions, LinkPort, Spot, groups_of, link_ports, physical_ports, preference
from anabasis.facts import Refusal
from anabasis.failover.election import ORDER, Claim, Election, elect, refused
from anabasis.failover.heartbeat import heartbeats
from anabasis.failover.refusing import refusals
from anabasis.routing import look_up
from anabasis.site import Site, own_place, receiver, rerouted
from anabasis.trace import walk
from anabasis.tunnels import build_site


@dataclass(frozen=True)
class Standing:
    """One pair, or one group of a pair that shares its gateways, under given conditions."""

    pair: str
    group: int
    claims: tuple[Claim, ...]
    heard: bool
    before: str | None
    """Who was active before anything failed."""
    election: Election

    @property
    def moved(self) -> bool:
        """Tell whether another unit is active than before."""
        return self.election.active != ((self.before,) if self.before else ())


def pairs_of(design: Design) -> list[Firewall]:
    """Return the firewalls that are pairs."""
    return [d for d in design.devices if isinstance(d, Firewall) and len(d.units) == 2 and d.failover]


def standings(
    design: Design,
    conditions: Conditions,
    before: dict[tuple[str, int], str] | None = None,
    reasons: Mapping[str, list[Refusal]] | None = None,
) -> list[Standing]:
    """Elect in every pair. `before`: who is active now, by pair and group; None = whoever is with nothing failed. `reasons`: why the units of each refuse each other, where that is known."""
    physical = physical_ports(design, conditions)
    ports = link_ports(design, conditions, physical)
    out: list[Standing] = []
    for device in pairs_of(design):
        known = before if before is not None else at_rest(design, device)
        for group in groups_of(device):
            claims = tuple(_claim(design, device, u.name, group, ports, conditions) for u in device.units)
            heard = any(h.up for h in heartbeats(device, physical))
            now = known.get((device.name, group))
            assert device.failover is not None
            why = reasons[device.name] if reasons is not None else refusals(design, device)
            settings = device.failover
            agreed = elect(claims, heard, now, settings.preempt, settings.order)
            election = refused(claims, now, why) if why else agreed
            out.append(Standing(device.name, group, claims, heard, now, election))
    return out


def elected(design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None) -> Conditions:
    """Return conditions with the active unit of every pair; in a split brain the one that was active before.

    `before`: another state under the same conditions; who is active is taken over where rules and routes can have no say.
    """
    asked = any(d.failover and d.failover.targets for d in pairs_of(design))
    if before is not None and not asked and rerouted(design, before.design) is not None:
        return before.conditions
    active = [
        (s.pair, s.group, s.before if s.election.split_brain and s.before else (s.election.active or ("",))[0])
        for s in standings(design, conditions)
    ]
    return replace(conditions, active=frozenset(active))


def stand(design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None) -> Site:
    """Climb from the document to the policies, with every pair elected. `before`: another state; what is the same in this one is taken over."""
    near = before if before is not None and replace(before.conditions, active=conditions.active) == conditions else None
    return build_site(design, elected(design, conditions, near), near)


def at_rest(design: Design, device: Firewall) -> dict[tuple[str, int], str]:
    """Return who is active with nothing failed and nobody before; by priority where the units do not even hear each other."""
    ports = link_ports(design, ALL_WELL)
    out: dict[tuple[str, int], str] = {}
    for group in groups_of(device):
        claims = tuple(_claim(design, device, u.name, group, ports, ALL_WELL) for u in device.units)
        order = device.failover.order if device.failover else ORDER
        found = elect(claims, True, None, True, order).active
        if found:
            out[device.name, group] = found[0]
    return out


def _claim(
    design: Design, device: Firewall, unit: str, group: int, ports: dict[Spot, LinkPort], conditions: Conditions
) -> Claim:
    assert device.failover is not None
    alive = unit not in conditions.failed and device.name not in conditions.failed
    down = tuple(n for n in device.failover.watch if not _up(ports, unit, n))
    lost = _lost(design, device, unit, conditions) if alive and device.failover.targets else ()
    order = sorted((u.name for u in device.units), key=lambda name: preference(device, name, group))
    return Claim(unit, alive, down, lost, order.index(unit))


def _up(ports: dict[Spot, LinkPort], unit: str, name: str) -> bool:
    if (unit, name) in ports:
        return ports[unit, name].up
    return any(m.up for p in ports.values() for m in p.members if m.spot == (unit, name))  # a member of a bundle


def _lost(design: Design, device: Firewall, unit: str, conditions: Conditions) -> tuple[str, ...]:
    """Return the targets that a unit would not reach as the active one, by a ping from its own interface towards each."""
    assert device.failover is not None
    alone = frozenset((device.name, g, unit) for g in groups_of(device))
    others = frozenset(a for a in conditions.active if a[0] != device.name)
    site = build_site(design, replace(conditions, active=alone | others))
    out: list[str] = []
    tables = [(vrf, t) for (name, vrf), t in site.net.tables.items() if name == device.name]
    for text in device.failover.targets:
        address = parse_address(text)
        routes = [r for _, t in tables if (r := look_up(t, address).winner) is not None and r.interface]
        leaving = [site.net.by_name.get((device.name, r.interface or "")) for r in routes]
        own = next(
            (i for i in leaving if i is not None and any(a.version == address.version for a in i.addresses)), None
        )
        if own is None:
            out.append(text)
            continue
        source = next(a.ip for a in own.addresses if a.version == address.version)
        ping = (1, 8) if address.version == 4 else (58, 128)
        went = walk(site, own_place(site, own, source), receiver(site, address), ping)
        if went.outcome == "stopped":
            out.append(text)
    return tuple(out)
