"""Why a tenant's packet does not arrive: a gateway in the wrong table, or a table that was not told of where it goes."""

from __future__ import annotations

from anabasis.design.notation import Network
from anabasis.design.overlay import hears, sides
from anabasis.design.routes import Vrf
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.routing import L3Interface, advertised, misplaced
from anabasis.site import Site
from anabasis.trace.packet import RouteLookup
from anabasis.trace.trip import Trip


def has_tenants(site: Site, device: str) -> bool:
    """Tell whether a box has tables of tenants."""
    return any(v.on_overlay for v in getattr(site.net.devices[device], "vrfs", []))


def of_a_tenant(site: Site, trip: Trip) -> Cause | None:
    """Return what is wrong on an overlay with the way a packet has taken, whatever it ended in."""
    if not site.overlaid:
        return None
    for lookup in trip.lookups:
        cause = _out_of_place(site, trip, lookup) or not_told(site, lookup, lookup.vrf)
        if cause is not None:
            return cause
    return None


def _out_of_place(site: Site, trip: Trip, lookup: RouteLookup) -> Cause | None:
    """A gateway in the wrong table on the way; of a reply, also one that the request may have come in by."""
    back = trip.header.source if trip.is_reply else None
    for wrong in misplaced(site.design, site.net.by_name):
        at, right = wrong.gateway, wrong.right
        if at.subnet_of(lookup.destination) or lookup.ingress is at or (back is not None and at.subnet_of(back)):
            values: Values = {
                "interface": at.label,
                "vrf": at.vrf,
                "other": right.vrf,
                "address": str(lookup.destination),
            }
            return because(Layer.ROUTE, Wrong.OTHER_VRF, at.pointer, right.pointer, values=values)
    return None


def not_told(site: Site, lookup: RouteLookup, name: str = "") -> Cause | None:
    """Return why a table of a tenant was not told of an address on the overlay: it imports nothing of whoever has it, or that tells nobody.

    `name`: asked of tables of this name only, and where they would know better than the route that was taken.
    """
    known = sides(site.design) if site.overlaid else []
    me = next(((v, at) for s in known if s.device == lookup.device for v, at in s.vrfs if v.name == lookup.vrf), None)
    if me is None:
        return None
    mine, at = me
    depth = lookup.route.to.prefixlen if lookup.route is not None else -1
    found: list[tuple[bool, int, Cause]] = []
    for side in known:
        for theirs, there in side.vrfs:
            held = _held(site, side.device, theirs, lookup)
            if held is None or (side.device == lookup.device and theirs is mine) or (name and theirs.name != name):
                continue
            prefix, interface = held
            if name and prefix.prefixlen <= depth:
                continue
            said: Values = {"device": lookup.device, "far": side.device, "one": mine.name, "two": theirs.name}
            if not hears(mine, theirs):
                guilty = f"{at}/import", f"{there}/export", at, there
                cause = because(Layer.ROUTE, Wrong.NOT_IMPORTED, *guilty, values=said)
            elif theirs.vni is None:
                cause = because(Layer.ROUTE, Wrong.WITHOUT_VNI, f"{there}/vni", there, values=said)
            elif prefix not in advertised(theirs, site.net.tables.get((side.device, theirs.name))):
                at_home = interface.pointer if interface is not None else ""
                values = said | {"prefix": str(prefix)}
                cause = because(Layer.ROUTE, Wrong.NOT_ADVERTISED, f"{there}/advertise", there, at_home, values=values)
            else:
                continue
            found.append((theirs.name != mine.name, -prefix.prefixlen, cause))
    return min(found, key=lambda f: f[:2])[2] if found else None


def _held(site: Site, device: str, vrf: Vrf, lookup: RouteLookup) -> tuple[Network, L3Interface | None] | None:
    """Return the longest prefix by which a table leads to an address itself: of an interface, or advertised."""
    address = lookup.destination
    own = [(a.network, i) for i in site.net.of_device[device] if i.vrf == vrf.name for a in i.addresses]
    listed = [(p, None) for p in advertised(vrf, site.net.tables.get((device, vrf.name)))]
    inside = [(p, i) for p, i in (*own, *listed) if p.version == address.version and address in p]
    return max(inside, key=lambda x: x[0].prefixlen) if inside else None
