"""Mistakes that open: nothing stops working, so nobody is told. They are no single faults to be diagnosed, but ways in to be counted."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, boxes, out, put
from anabasis.faults.policy import zoned_interfaces


def _rules(look: Look, action: str) -> Iterator[tuple[str, Tree]]:
    """Yield (pointer, rule) of the rules in use that permit, or that drop."""
    for d, device in look.firewalls():
        for i, rule in enumerate(device.get("rules", [])):
            if rule.get("enabled", True) and (rule["action"] == "permit") == (action == "permit"):
                yield pointer("devices", d, "rules", i), rule


def drop_permits(look: Look) -> Iterator[Made]:
    """A rule permits what it should drop."""
    for at, _ in _rules(look, "drop"):
        yield put(at, "action", "permit"), (at,)


def drop_off(look: Look) -> Iterator[Made]:
    """A rule that drops is switched off."""
    for at, _ in _rules(look, "drop"):
        yield put(at, "enabled", False), (at,)


def drop_gone(look: Look) -> Iterator[Made]:
    """A rule that drops is not there."""
    for d, device in look.firewalls():
        for i, rule in enumerate(device.get("rules", [])):
            if rule["action"] != "permit":
                yield out(pointer("devices", d, "rules", i)), (pointer("devices", d, "rules"), pointer("devices", d))


def _wide(key: str, look: Look) -> Iterator[Made]:
    for at, rule in _rules(look, "permit"):
        if "any" not in rule.get(key, ["any"]):
            yield put(at, key, ["any"]), (at,)


def any_service(look: Look) -> Iterator[Made]:
    """A rule permits every service."""
    yield from _wide("services", look)


def any_source(look: Look) -> Iterator[Made]:
    """A rule permits every source in its zone."""
    yield from _wide("sources", look)


def any_destination(look: Look) -> Iterator[Made]:
    """A rule permits every destination in its zone."""
    yield from _wide("destinations", look)


def to_any_zone(look: Look) -> Iterator[Made]:
    """A rule permits what goes to any zone."""
    yield from _wide("to", look)


def from_any_zone(look: Look) -> Iterator[Made]:
    """A rule permits what comes from any zone."""
    yield from _wide("from", look)


def left_on_top(look: Look) -> Iterator[Made]:
    """A rule that permits everything was left on top."""
    for d, device in look.firewalls():
        at = pointer("devices", d, "rules")
        rule = {"name": "left-from-a-test", "from": ["any"], "to": ["any"], "action": "permit"}
        edit = [{"op": "add", "path": f"{at}/0", "value": rule}] if device.get("rules") else put(pointer("devices", d), "rules", [rule])  # fmt: skip
        yield edit, (pointer("devices", d), f"{at}/0")


def default_permits(look: Look) -> Iterator[Made]:
    """What no rule between two zones names is permitted."""
    for d, device in look.firewalls():
        if device.get("between_zones", "drop") != "permit":
            at = pointer("devices", d)
            yield put(at, "between_zones", "permit"), (at,)


def other_zone(look: Look) -> Iterator[Made]:
    """An interface is in another zone of its kind."""
    for d, at, port in zoned_interfaces(look):
        zones = look.devices[d].get("zones", [])
        kinds = {z["name"]: z.get("kind", "routed") for z in zones}
        for name, kind in kinds.items():
            if name != port["zone"] and kind == kinds.get(str(port["zone"])):
                yield put(at, "zone", name), (at,)


def filter_entry_permits(look: Look) -> Iterator[Made]:
    """An entry of a stateless filter permits what it should drop."""
    for d, device in enumerate(look.devices):
        for f, held in enumerate(device.get("filters", [])):
            for i, entry in enumerate(held["entries"]):
                if entry.get("action") != "permit":
                    at = f"{pointer('devices', d, 'filters', f)}/entries/{i}"
                    yield put(at, "action", "permit"), (at,)


def filter_gone(look: Look) -> Iterator[Made]:
    """An interface lost its stateless filter."""
    for _, at, entry, _ in look.interfaces():
        for key in ("filter_in", "filter_out"):
            if entry.get(key):
                yield out(f"{at}/{key}"), (at,)


def not_isolated(look: Look) -> Iterator[Made]:
    """A port that should be isolated is not."""
    for _, at, port in look.every_member():
        if port.get("isolated"):
            yield put(at, "isolated", False), (at,)


def routing_on(look: Look) -> Iterator[Made]:
    """A switch with addresses in several VLANs routes between them."""
    for d, device in enumerate(look.devices):
        held = [v for v in device.get("vlan_interfaces", []) if v.get("addresses")]
        if device["kind"] == "switch" and not device.get("routing") and len(held) > 1:
            at = pointer("devices", d)
            yield put(at, "routing", True), (at,)


def networks_open(look: Look) -> Iterator[Made]:
    """A box that keeps its networks apart routes between them."""
    for d, device in enumerate(look.devices):
        if device.get("between_networks") == "closed":
            at = pointer("devices", d)
            yield put(at, "between_networks", "open"), (at,)


def bypassed(look: Look) -> Iterator[Made]:
    """A cable leads past an inline pair."""
    for d, device in look.firewalls():
        for w, wire in enumerate(device.get("wires", [])):
            for box in boxes(device):
                one, two = (look.cable_at.get((box, name)) for name in wire["ends"])
                if one is not None and two is not None:
                    cable = [":".join(one[1]), ":".join(two[1])]
                    first, last = sorted((one[0], two[0]))
                    edit = [*out(pointer("cables", last)), {"op": "replace", "path": pointer("cables", first), "value": cable}]  # fmt: skip
                    yield edit, (pointer("devices", d, "wires", w), pointer("cables", first))


FAMILY = (
    FaultKind("drop-permits", "a rule permits what it should drop", "rule", "risks", False, 3, drop_permits),
    FaultKind("drop-disabled", "a rule that drops is switched off", "rule", "risks", False, 5, drop_off),
    FaultKind("drop-missing", "a rule that drops is not there", "rule", "risks", False, 4, drop_gone),
    FaultKind("rule-any-service", "a rule permits every service", "rule", "risks", False, 6, any_service),
    FaultKind("rule-any-source", "a rule permits every source", "rule", "risks", False, 5, any_source),
    FaultKind("rule-any-destination", "a rule permits every destination", "rule", "risks", False, 5, any_destination),
    FaultKind("rule-to-any", "a rule permits what goes to any zone", "rule", "risks", False, 3, to_any_zone),
    FaultKind("rule-from-any", "a rule permits what comes from any zone", "rule", "risks", False, 3, from_any_zone),
    FaultKind("test-rule", "a rule that permits everything was left on top", "rule", "risks", False, 7, left_on_top),
    FaultKind("default-permits", "what no rule names is permitted", "rule", "risks", False, 2, default_permits),
    FaultKind("zone-other", "an interface is in another zone", "zone", "risks", False, 5, other_zone),
    FaultKind("filter-permits", "an entry of a filter permits what it should drop", "rule", "risks", False, 3, filter_entry_permits),
    FaultKind("filter-gone", "an interface lost its filter", "rule", "risks", False, 4, filter_gone),
    FaultKind("not-isolated", "a port that should be isolated is not", "vlan", "risks", False, 4, not_isolated),
    FaultKind("routing-on", "a switch routes that should not", "route", "risks", False, 3, routing_on),
    FaultKind("networks-open", "a box routes between networks it keeps apart", "route", "risks", False, 3, networks_open),
    FaultKind("wire-bypassed", "a cable leads past an inline pair", "link", "risks", False, 4, bypassed),
)  # fmt: skip
