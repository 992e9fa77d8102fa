"""Which segments stand in the zones of a firewall, or behind them."""

from __future__ import annotations

from anabasis.fabric import Spot
from anabasis.site import Site


def zone_segments(site: Site, firewall: str) -> dict[str, list[int]]:
    """Return by zone the segments that stand in it: by an interface, by a route, or behind bridged and inline ports."""
    out: dict[str, list[int]] = {z: [] for z in site.policies.of[firewall].zone_kinds}
    for k, segment in enumerate(site.segments.all):
        held = set(site.zones_at[firewall][k])
        for attachment in segment.attachments:
            interface = site.net.by_attachment.get(attachment)
            held |= {interface.zone or ""} if interface is not None and interface.device == firewall else set()
        for zone in held & set(out):
            out[zone].append(k)
    for zone, behind in _behind_ports(site, firewall).items():
        out[zone] += [k for k in behind if k not in out[zone]]
    return out


def _behind_ports(site: Site, firewall: str) -> dict[str, list[int]]:
    """Return by zone the segments that its bridged and inline ports lead to."""
    out: dict[str, list[int]] = {}
    for port in site.fabric.ports.values():
        if port.device != firewall or port.mode not in ("bridged", "inline") or not port.peer:
            continue
        zones = {port.settings.zone, *(s.zone for s in port.settings.subinterfaces)} - {None}
        spots = _beyond(site, port.peer, port.box)
        fars = [site.fabric.ports[s].settings for s in spots]
        vlans = {v for far in fars for v in (*far.member_of, far.pvid)} - {None}
        ends = {site.segments.of_attachment.get(t.index) for t in site.fabric.attachments if (t.box, t.port) in spots}
        near = [k for k, s in enumerate(site.segments.all) if vlans & set(s.vlan_ids) or k in ends]
        for zone in zones:
            known = out.setdefault(zone or "", [])
            known += [k for k in near if k not in known]
    return out


def _beyond(site: Site, spot: Spot, before: str) -> list[Spot]:
    """Return the ports a cable leads to; through a hub those at its other ends."""
    ports = site.fabric.ports
    if ports[spot].kind != "hub":
        return [spot]
    others = [p.peer for p in ports.values() if p.box == spot[0] and p.spot != spot and p.peer]
    return [s for peer in others if peer[0] != before for s in _beyond(site, peer, spot[0])]
