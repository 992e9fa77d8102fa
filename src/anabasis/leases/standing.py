"""The site as its hosts stand in it: built, its clients given their leases, and built again with them."""

from __future__ import annotations

from anabasis.design import Design
from anabasis.design.devices import Endpoint
from anabasis.fabric import ALL_WELL, Conditions, Fabric
from anabasis.leases.leasing import hand_out
from anabasis.site import Site, bare_site, with_leases


def build_site(
    design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None, fabric: Fabric | None = None
) -> Site:
    """Climb from the document to hosts with leases.

    `before`: another state, of whose layers what is the same is taken over: most where its conditions are the same. `fabric`: layers 1 and 2, where they are known.
    """
    site = bare_site(design, conditions, before, fabric)
    if not any(isinstance(d, Endpoint) and d.dhcp for d in design.devices):
        return site
    return with_leases(site, hand_out(site))
