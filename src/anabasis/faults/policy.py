"""Faults of a firewall's policy: zones, rules, translation, answers; and of its pair."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put


def zoned_interfaces(look: Look) -> Iterator[tuple[int, str, dict[str, object]]]:
    """Yield (device, pointer, settings) of every interface of a firewall that is in a zone."""
    for d, _ in look.firewalls():
        for at, port in look.members(d):
            for k, sub in enumerate(port.get("subinterfaces", [])):
                if sub.get("zone"):
                    yield d, f"{at}/subinterfaces/{k}", sub
            if port.get("zone"):
                yield d, at, port
        for i, entry in enumerate(look.devices[d].get("vlan_interfaces", [])):
            if entry.get("zone"):
                yield d, pointer("devices", d, "vlan_interfaces", i), entry


def zone_missing(look: Look) -> Iterator[Made]:
    """An interface is in no zone."""
    for _, at, _ in zoned_interfaces(look):
        yield out(f"{at}/zone"), (at,)


def zone_kind(look: Look) -> Iterator[Made]:
    """A zone is of another kind than its interfaces."""
    for d, device in look.firewalls():
        held = {z["zone"] for e, _, z in zoned_interfaces(look) if e == d}
        for i, zone in enumerate(device.get("zones", [])):
            if zone["name"] in held:
                at = pointer("devices", d, "zones", i)
                users = [a for e, a, z in zoned_interfaces(look) if e == d and z["zone"] == zone["name"]]
                other = "bridged" if zone.get("kind", "routed") != "bridged" else "routed"
                yield put(at, "kind", other), (at, *users)


def _rules(look: Look) -> Iterator[tuple[int, int, str, dict[str, object]]]:
    for d, device in look.firewalls():
        for i, rule in enumerate(device.get("rules", [])):
            if rule["action"] == "permit":
                yield d, i, pointer("devices", d, "rules", i), rule


def rule_off(look: Look) -> Iterator[Made]:
    """A rule is switched off."""
    for _, _, at, _ in _rules(look):
        yield put(at, "enabled", False), (at,)


def rule_drops(look: Look) -> Iterator[Made]:
    """A rule drops what it should permit."""
    for _, _, at, _ in _rules(look):
        yield put(at, "action", "drop"), (at,)


def rule_above(look: Look) -> Iterator[Made]:
    """A rule above takes what another permits."""
    for d, i, at, rule in _rules(look):
        above = {**rule, "name": "stopper", "action": "drop"}
        yield [{"op": "add", "path": at, "value": above}], (at, pointer("devices", d, "rules", i + 1))


def rule_gone(look: Look) -> Iterator[Made]:
    """A rule is not there."""
    for d, _, at, _ in _rules(look):
        yield out(at), (pointer("devices", d, "rules"), pointer("devices", d, "between_zones"), pointer("devices", d))


def nat_gone(look: Look) -> Iterator[Made]:
    """A translation to the outside is not there."""
    for d, i, at in _outward(look):
        yield out(at), (pointer("devices", d, "nat"), pointer("devices", d))
        del i


def _outward(look: Look) -> Iterator[tuple[int, int, str]]:
    outsides = {e for e, x in enumerate(look.devices) if x["kind"] == "outside"}
    for d, device in look.firewalls():
        near = {
            p.get("zone")
            for _, p in look.members(d)
            if outsides & {e for e, _, _ in look.far(d, p)} or ("units" in device and p["name"] == "s")
        }
        for i, entry in enumerate(device.get("nat", [])):
            if near & set(entry.get("to", [])):
                yield d, i, pointer("devices", d, "nat", i)


def nat_off(look: Look) -> Iterator[Made]:
    """A translation to the outside is switched off."""
    for _, _, at in _outward(look):
        yield put(at, "enabled", False), (at,)


def nat_zone(look: Look) -> Iterator[Made]:
    """A translation names the wrong zone."""
    for d, i, at in _outward(look):
        zones = [
            z["name"]
            for z in look.devices[d]["zones"]
            if z["name"] not in look.devices[d]["nat"][i]["to"] and z.get("kind", "routed") == "routed"
        ]
        if zones:
            yield put(at, "to", zones[:1]), (at,)


def nat_sources(look: Look) -> Iterator[Made]:
    """A translation leaves a subnet out."""
    for _, _, at in _outward(look):
        yield put(at, "sources", ["10.79.0.0/16"]), (at,)


def traits(look: Look) -> Iterator[Made]:
    """The units of a pair differ."""
    for d, device in look.firewalls():
        if len(device.get("units", [])) == 2 and "model" in device["units"][1].get("traits", {}):
            at = pointer("devices", d, "units", 1)
            yield put(f"{at}/traits", "model", "M9"), (at, pointer("devices", d, "units", 0))


def heartbeat_pulled(look: Look) -> Iterator[Made]:
    """A heartbeat cable is not plugged in."""
    for d, device in look.firewalls():
        beats = {p["name"] for p in device.get("ports", []) if p.get("mode") == "heartbeat"}
        for i, cable in enumerate(look.tree.get("cables", [])):
            box, port = cable[0].split(":", 1)
            if port in beats and any(u["name"] == box for u in device.get("units", [])):
                places = [at for at, p in look.members(d) if p["name"] in beats]
                yield out(pointer("cables", i)), (pointer("devices", d, "failover"), *places)


def watch_forgets(look: Look) -> Iterator[Made]:
    """A watch list forgets a port that carries traffic."""
    for d, device in look.firewalls():
        watch = (device.get("failover") or {}).get("watch", [])
        for k, name in enumerate(watch):
            places = [at for at, p in look.members(d) if p["name"] == name]
            yield out(pointer("devices", d, "failover", "watch", k)), (pointer("devices", d, "failover"), *places)


def unsynced(look: Look) -> Iterator[Made]:
    """Sessions are not told to the other unit."""
    for d, device in look.firewalls():
        if (device.get("failover") or {}).get("sync_sessions"):
            yield put(pointer("devices", d, "failover"), "sync_sessions", False), (pointer("devices", d, "failover"),)


FAMILY = (
    FaultKind("zone-missing", "an interface is in no zone", "zone", "breaks", True, 7, zone_missing),
    FaultKind("zone-kind", "a zone is of the wrong kind", "zone", "breaks", True, 5, zone_kind),
    FaultKind("rule-disabled", "a rule is switched off", "rule", "breaks", True, 4, rule_off),
    FaultKind("rule-drops", "a rule drops what it should permit", "rule", "breaks", True, 4, rule_drops),
    FaultKind("rule-shadowed", "a rule above takes what another permits", "rule", "risks", True, 6, rule_above),
    FaultKind("rule-missing", "a rule is not there", "rule", "breaks", True, 7, rule_gone),
    FaultKind("nat-missing", "no translation to the outside", "nat", "breaks", True, 6, nat_gone),
    FaultKind("nat-disabled", "a translation is switched off", "nat", "breaks", True, 3, nat_off),
    FaultKind("nat-zone", "a translation of the wrong zone", "nat", "breaks", True, 5, nat_zone),
    FaultKind("nat-sources", "a translation that leaves subnets out", "nat", "breaks", True, 5, nat_sources),
    FaultKind("pair-unlike", "the units of a pair differ", "standby", "breaks", False, 3, traits),
    FaultKind("heartbeat-pulled", "one heartbeat is left", "standby", "risks", False, 4, heartbeat_pulled),
    FaultKind("watch-forgets", "a port that carries traffic is not watched", "standby", "risks", False, 5, watch_forgets),
    FaultKind("sessions-unsynced", "sessions are not synced", "standby", "risks", False, 3, unsynced),
)  # fmt: skip
