"""What differs between a design and a site, and what became of asking, as a person reads it."""

from __future__ import annotations

import json
from typing import Any

from anabasis.facts import Differs, Drift, Silence

LISTS = {
    "ports": "port", "lags": "bundle", "subinterfaces": "tag", "vlan_interfaces": "VLAN interface", "loopbacks": "loopback", "vrfs": "VRF",
    "routes": "route to", "rules": "rule", "nat": "translation", "zones": "zone", "wires": "inline pair", "dhcp": "leases on", "answers": "answers",
    "filters": "filter", "tunnels": "tunnel", "remote_access": "remote access", "units": "unit", "mac_vrfs": "MAC-VRF", "ssids": "SSID",
    "interfaces": "interface", "vlans": "VLAN", "addresses": "address set", "services": "service set", "cables": "cable", "devices": "box", "ospf": "OSPF",
    "entries": "entry", "vrrp": "redundant gateway", "failover": "failover", "preferences": "preferences", "offers": "offer",
}  # fmt: skip
"""What an entry of a list of the document is called."""
SETTINGS = {
    "pvid": "the PVID", "untagged": "untagged in", "tagged": "tagged in", "enabled": "switched on", "mode": "the mode", "addresses": "its addresses",
    "accept": "the frames it accepts", "ingress_check": "the check on entry", "zone": "its zone", "vrf": "its VRF", "vlans": "its VLAN table",
    "note": "its note", "gateway": "its gateway", "translate": "the VLANs it translates", "lag": "its bundle", "protocol": "its protocol",
    "passive": "passive",
}  # fmt: skip
SILENCE = {
    Silence.NO_ANSWER: "no answer in time, by either protocol",
    Silence.REFUSED: "nobody listens there",
    Silence.NOT_ALLOWED: "it does not take the credentials",
    Silence.UNKNOWN_NAME: "the name leads nowhere",
    Silence.NOTHING_SAID: "it answers, and says nothing that is read here",
    Silence.NONSENSE: "what it says is no data of the protocol",
    Silence.TOO_MUCH: "it says more than is read of one box",
    Silence.STOPPED: "stopped before it had answered",
}
NOTHING = "not said"


def place_of(drift: Drift) -> str:
    """Return where a difference lies, without the box: `port 11`, `bundle tank, tag 120`."""
    path = list(drift.path)
    if drift.what == Differs.DOWN:
        return path[1]
    if path[0] == "cables":
        return "the cable " + path[1].replace(" ", " to ")
    out: list[str] = []
    while path:
        key = path.pop(0)
        if not path:
            out.append(SETTINGS.get(key, LISTS.get(key, key.replace("_", " "))))
        elif key in LISTS and key not in ("ospf", "failover", "preferences"):
            out.append(f"{LISTS[key]} {path.pop(0)}".strip())
        else:
            out.append(LISTS.get(key, key.replace("_", " ")))
    return ", ".join(out)


def value_said(value: Any) -> str:
    """Return a value as a cell shows it: an entry of a list by its settings."""
    if value is None or value in ([], {}):
        return NOTHING
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ("; " if any(isinstance(v, dict) for v in value) else ", ").join(value_said(v) for v in value)
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {value_said(v)}" for k, v in value.items() if k != "note")
    return str(value) if isinstance(value, str | int) else json.dumps(value)


def drift_said(drift: Drift) -> str:
    """Return a difference as a sentence without its full stop."""
    where = f"{drift.device}: {place_of(drift)}" if drift.device else place_of(drift)
    match drift.what:
        case Differs.DOWN:
            return f"{where} is down on the site, and up by the design"
        case Differs.STUB:
            return f"{where} is heard of by its neighbours, and was not asked"
        case Differs.SITE_ONLY:
            return f"{where} is there on the site, and not in the design"
        case Differs.DESIGN_ONLY:
            return f"{where} is in the design, and not there on the site"
        case Differs.OTHERWISE:
            return f"{where}: {value_said(drift.design)} in the design, {value_said(drift.site)} on the site"


def silence_said(why: Silence) -> str:
    """Return why a box that was asked is not known."""
    return SILENCE[why]
