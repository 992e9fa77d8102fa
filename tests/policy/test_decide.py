"""What decides about a packet between two zones, and what would have (docs/semantics.md, "Policy")."""

from __future__ import annotations

from typing import Any

from anabasis.facts import Wrong
from anabasis.policy import Policy, build_policies
from tests.sites import design_of

WEB = (4, 0x0A000001, 0x0A000101, (6, 443))


def wall(*rules: dict[str, Any]) -> Policy:
    """Return the policy of a firewall with three zones."""
    zones = [{"name": z} for z in ("in", "out", "lab")]
    box = {"name": "gate", "kind": "firewall", "zones": zones, "rules": list(rules)}
    return build_policies(design_of(devices=[box])).of["gate"]


def rule(name: str, **more: Any) -> dict[str, Any]:
    """Return a rule from in to out that permits everything."""
    return {"name": name, "from": ["in"], "to": ["out"], "action": "permit"} | more


def test_a_rule_that_is_off_is_named_where_it_would_have_permitted_just_this() -> None:
    """Not one for other zones, other services, or one that would have dropped it as well."""
    off = {"enabled": False}
    policy = wall(
        rule("elsewhere", to=["lab"], **off),
        rule("ping", services=["ping"], **off),
        rule("no", action="drop", **off),
        rule("web", services=["https"], **off),
    )
    found, cause = policy.decide("in", "out", WEB)
    assert found is None
    assert cause is not None
    assert (cause.wrong, cause.value("rule"), cause.guilty[0]) == (Wrong.RULE_OFF, "web", "/devices/0/rules/3/enabled")
    other = policy.decide("out", "in", WEB)[1]
    assert other is not None
    assert other.wrong == Wrong.DEFAULT_DROPS


def test_the_first_that_matches_decides() -> None:
    """By service, and by zones."""
    policy = wall(rule("no", services=["https"], action="refuse"), rule("yes"))
    found, cause = policy.decide("in", "out", WEB)
    assert found is not None
    assert cause is not None
    assert (found.name, cause.wrong, cause.value("action")) == ("no", Wrong.RULE_DROPS, "refuses")
    passing = policy.decide("in", "out", (*WEB[:3], (6, 22)))
    assert passing[0] is not None
    assert (passing[0].name, passing[1]) == ("yes", None)
    assert policy.decide("in", "in", WEB) == (None, None)
