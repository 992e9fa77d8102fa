"""One site as both engines see it: layers 1 to 3 and the policies, computed once from a checked design."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Design
from anabasis.design.devices import Device, Firewall
from anabasis.fabric import ALL_WELL, Conditions, Fabric, Segments, build_fabric, compute_segments
from anabasis.policy import Policies, build_policies
from anabasis.routing import Network3, build_network


def _alike_below(one: Design, two: Design) -> bool:
    """Tell whether two designs have the same plan, cables and devices, rules aside."""
    if one.vlans != two.vlans or one.cables != two.cables or len(one.devices) != len(two.devices):
        return False
    return all(a is b or _without_rules(a) == _without_rules(b) for a, b in zip(one.devices, two.devices, strict=True))


def _without_rules(device: Device) -> Device:
    return device.model_copy(update={"rules": []}) if isinstance(device, Firewall) else device


@dataclass(frozen=True)
class Site:
    """Everything below reach."""

    design: Design
    segments: Segments
    net: Network3
    policies: Policies

    def stands_on(self, other: Site) -> bool:
        """Tell whether everything below the rules is that of another state: layers 1 to 3, zones and translations."""
        mine, theirs = self.policies.of, other.policies.of
        return self.net is other.net and all(
            (p.translations, p.zone_kinds) == (theirs[name].translations, theirs[name].zone_kinds)
            for name, p in mine.items()
        )

    @property
    def fabric(self) -> Fabric:
        """Return layers 1 and 2."""
        return self.segments.fabric


def build_site(design: Design, conditions: Conditions = ALL_WELL, before: Site | None = None) -> Site:
    """Climb from the document to the policies. `before`: another state under the same conditions, whose layers 1 to 3 are taken over where they are the same."""
    policies = build_policies(design, (before.design, before.policies) if before is not None else None)
    if before is not None and _alike_below(design, before.design) and policies.claims == before.policies.claims:
        return Site(design, before.segments, before.net, policies)
    segments = compute_segments(build_fabric(design, conditions))
    return Site(design, segments, build_network(segments, conditions, policies.claims), policies)
