"""Frames in and out of one bridged port (IEEE 802.1Q-2022, clauses 6.9, 8.6.1 to 8.6.3 and 8.8).

A frame on a wire has a **form**: its tag, or 0 for untagged (a priority tag, VID 0, counts as untagged: clause 6.9).
"""

from __future__ import annotations

from anabasis.design.ports import Membership
from anabasis.facts import Wrong

UNTAGGED = 0


def member_vlans(port: Membership) -> frozenset[int]:
    """Return the VLANs whose member set holds this port (clause 8.8.10)."""
    return port.member_of


def accepted(port: Membership) -> str:
    """Return which frames the port admits (clause 6.9, acceptable frame types): all, tagged or untagged.

    Left out, a port that is the untagged member of one VLAN only (an access port) admits untagged frames, any other admits all.
    """
    if port.accept:
        return port.accept
    return "untagged" if len(port.untagged) == 1 and not port.tagged else "all"


def ingress(port: Membership, form: int, table: frozenset[int] | None) -> tuple[int | None, Wrong | None]:
    """Classify a frame that arrives on `port` in `form`.

    `table` is the device's VLAN table (None = every VLAN). Returns (VLAN, None), or (None, why it is dropped).
    """
    if form == UNTAGGED:
        if accepted(port) == "tagged":
            return None, Wrong.TAGGED_ONLY
        if port.pvid is None:
            return None, Wrong.NO_PVID
        vlan = port.pvid
    else:
        if accepted(port) == "untagged":
            return None, Wrong.UNTAGGED_ONLY
        vlan = port.translate.get(form, form)
    if table is not None and vlan not in table:
        return None, Wrong.NOT_IN_TABLE
    if port.ingress_check and vlan not in member_vlans(port):
        return None, Wrong.NO_MEMBER
    return vlan, None


def meant(port: Membership, form: int) -> int | None:
    """Return the VLAN that a frame in `form` is meant for at a port, whether or not it is let in."""
    return port.pvid if form == UNTAGGED else port.translate.get(form, form)


def egress(port: Membership, vlan: int) -> int | None:
    """Return the form in which a frame of `vlan` leaves `port`, or None where the port is no member (clause 8.6.3)."""
    if vlan in port.untagged:
        return UNTAGGED
    if vlan in port.member_of:
        return next((wire for wire, inside in port.translate.items() if inside == vlan), vlan)
    return None


def edge_forms(port: Membership) -> list[int]:
    """Return the forms in which a host on this port may send or be sent frames, untagged first."""
    forms = {UNTAGGED} if port.pvid is not None or port.untagged else set()
    return sorted(forms | {f for v in port.tagged if (f := egress(port, v)) is not None})
