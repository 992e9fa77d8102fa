"""Words of rules: nested sets, IANA services, what a rule matches."""

from __future__ import annotations

from ipaddress import ip_address
from typing import Any

from anabasis.policy import Policy, build_policies
from tests.sites import design_of

TCP = 6


def policy(*rules: dict[str, Any], **more: Any) -> Policy:
    """Return the policy of one firewall."""
    zones = [{"name": z} for z in ("in", "out")]
    given = [{"name": f"r{i}", "from": ["in"], "to": ["out"], "action": "permit", **r} for i, r in enumerate(rules)]
    fence = {"name": "fw", "kind": "firewall", "zones": zones, "rules": given, **more}
    addresses = [
        {"name": "pumps", "members": ["10.64.1.0/28", "more"]},
        {"name": "more", "members": ["10.64.1.40-10.64.1.44"]},
    ]
    services = [{"name": "bus", "members": ["tcp/502", "pings"]}, {"name": "pings", "members": ["ping"]}]
    return build_policies(design_of(addresses=addresses, services=services, devices=[fence])).of["fw"]


def first(
    found: Policy, source: str, destination: str, service: tuple[int, int], zones: tuple[str, str] = ("in", "out")
) -> str | None:
    """Return the name of the first rule that matches."""
    a, b = ip_address(source), ip_address(destination)
    return next((r.name for r in found.lines(*zones) if r.matches(a.version, int(a), int(b), service)), None)


def test_sets_are_nested() -> None:
    """A set may name sets; its members match, their neighbours do not."""
    found = policy({"destinations": ["pumps"], "services": ["bus"]})
    for inside in ("10.64.1.0", "10.64.1.15", "10.64.1.40", "10.64.1.44"):
        assert first(found, "10.64.9.9", inside, (TCP, 502)) == "r0"
    for outside in ("10.64.1.16", "10.64.1.39", "10.64.1.45"):
        assert first(found, "10.64.9.9", outside, (TCP, 502)) is None
    assert first(found, "10.64.9.9", "10.64.1.1", (1, 8)) == "r0"
    assert first(found, "10.64.9.9", "10.64.1.1", (TCP, 503)) is None


def test_the_first_match_decides() -> None:
    """Order matters, and a rule that is switched off is not there."""
    drop, permit = {"services": ["ssh"], "action": "drop"}, {"services": ["any"]}
    assert first(policy(drop, permit), "10.0.0.1", "10.0.0.2", (TCP, 22)) == "r0"
    assert first(policy(permit, drop), "10.0.0.1", "10.0.0.2", (TCP, 22)) == "r0"
    assert first(policy(drop | {"enabled": False}, permit), "10.0.0.1", "10.0.0.2", (TCP, 22)) == "r1"


def test_zones() -> None:
    """A rule speaks of its zones only; `any` of all."""
    found = policy({"from": ["any"]}, {"from": ["out"], "to": ["in"]})
    assert first(found, "10.0.0.1", "10.0.0.2", (TCP, 1), ("out", "out")) == "r0"
    assert first(found, "10.0.0.1", "10.0.0.2", (TCP, 1), ("out", "in")) == "r1"
    assert first(found, "10.0.0.1", "10.0.0.2", (TCP, 1), ("in", "in")) is None


def test_defaults_are_settings() -> None:
    """Within a zone permit, between zones drop, unless the device says otherwise."""
    assert policy().default("in", "in") == ("permit", "/devices/0/same_zone")
    assert policy().default("in", "out") == ("drop", "/devices/0/between_zones")
    odd = policy(same_zone="drop", between_zones="permit")
    assert (odd.default("in", "in")[0], odd.default("in", "out")[0]) == ("drop", "permit")
