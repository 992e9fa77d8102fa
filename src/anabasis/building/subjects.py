"""What a change is about, by where it stands in the document."""

from __future__ import annotations

from typing import Any

from anabasis.design.devices import DEFAULT_MODE
from anabasis.facts import Subject

ON_TOP = {
    "vlans": Subject.PLAN,
    "addresses": Subject.SETS,
    "services": Subject.SETS,
    "cables": Subject.CABLE,
}
OF_BOX = {
    "lags": Subject.BUNDLE,
    "vlans": Subject.VLANS,
    "default_vlan": Subject.VLANS,
    "new_vlan": Subject.VLANS,
    "zones": Subject.ZONE,
    "vrfs": Subject.VRF,
    "answers": Subject.ANSWERS,
    "filters": Subject.FILTER,
    "wires": Subject.WIRE,
    "vlan_interfaces": Subject.INTERFACE,
    "loopbacks": Subject.INTERFACE,
    "tunnels": Subject.TUNNEL,
    "remote_access": Subject.TUNNEL,
    "mac_vrfs": Subject.TUNNEL,
    "offers": Subject.TUNNEL,
    "rules": Subject.RULE,
    "nat": Subject.TRANSLATION,
    "dhcp": Subject.LEASE,
    "units": Subject.PAIR,
    "failover": Subject.PAIR,
    "ssids": Subject.WIRELESS,
    "addresses": Subject.HOST,
    "gateway": Subject.HOST,
    "hardware": Subject.HOST,
    "dns": Subject.HOST,
    "prefixes": Subject.HOST,
    "routes": Subject.ROUTE,
}
RUNNING = {"active": Subject.ACTIVE, "saved": Subject.SAVE}


def subject_of(path: tuple[str, ...], before: Any, after: Any, kind: str) -> Subject:
    """Return what a change is about. `kind`: of the box it is at."""
    if path[0] != "devices":
        return ON_TOP.get(path[0], Subject.EXPECTATION if path[0] == "expectations" else Subject.PLAN)
    if len(path) == 1:
        return Subject.PLAN  # their order in the document
    if len(path) == 2:
        return Subject.BOX
    if path[2] == "running":
        return RUNNING.get(after, Subject.PLAN)
    if path[2] == "note":
        return Subject.PLAN
    if path[2] == "dhcp" and kind == "endpoint":
        return Subject.HOST
    if len(path) > 4:
        return Subject.ROUTE if path[4] == "routes" else Subject.INTERFACE
    if path[2] == "lags" and isinstance(after, dict) and (before or {}).get("protocol") == after.get("protocol"):
        return _line(before, after, kind) if before is not None else Subject.BUNDLE
    if path[2] == "ports" and len(path) > 3:
        return _line(before, after, kind)
    return OF_BOX.get(path[2], Subject.SETTINGS)


def _line(before: Any, after: Any, kind: str) -> Subject:
    """Return what a port, or a bundle that stays one, is about: what it is for at last, or was."""
    said = after if isinstance(after, dict) else before if isinstance(before, dict) else {}
    mode = said.get("mode") or DEFAULT_MODE.get(kind, "routed")
    if mode == "lag":
        return Subject.BUNDLE
    if mode == "bridged":
        return Subject.MEMBERSHIP
    return Subject.INTERFACE if mode == "routed" else Subject.WIRE if mode == "inline" else Subject.SETTINGS
