"""What a box says of the tenants it has on an overlay (EVPN over VXLAN: RFC 7348, RFC 7432, RFC 8365)."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from anabasis.design.base import InterfaceOf, Name, Part, TargetText, VlanOf, VlanRef

Vni = Annotated[int, Field(ge=1, le=2**24 - 1, description="RFC 7348 section 5.")]


class Stretched(Part):
    """One VLAN that leaves the box by the overlay as well."""

    vlan: VlanOf
    vni: Vni = Field(description="What its frames carry on the overlay: equal on all boxes (RFC 8365 section 5.1.1).")
    irb: VlanRef | None = Field(
        default=None,
        description="The VLAN interface that is its gateway; others of one address serve it beside (RFC 9135).",
    )


class MacVrf(Part):
    """The VLANs of one tenant on one box, and whom it tells of them (RFC 7432 section 4)."""

    name: Name
    vlans: list[Stretched] = Field(default_factory=list)
    rd: TargetText | None = Field(default=None, description="Its distinguisher, unlike any other of the box.")
    import_: list[TargetText] = Field(
        default_factory=list, alias="import", description="It sends to whoever exports one of these route targets."
    )
    export: list[TargetText] = Field(default_factory=list)
    source: InterfaceOf = Field(description="The loopback whose address its packets come from; one a box.")
