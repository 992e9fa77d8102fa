"""One site as both engines see it: layers 1 to 3 and the policies, computed once from a checked design."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design import Design
from anabasis.fabric import ALL_WELL, Conditions, Fabric, Segments, build_fabric, compute_segments
from anabasis.policy import Policies, build_policies
from anabasis.routing import Network3, build_network


@dataclass(frozen=True)
class Site:
    """Everything below reach."""

    design: Design
    segments: Segments
    net: Network3
    policies: Policies

    @property
    def fabric(self) -> Fabric:
        """Return layers 1 and 2."""
        return self.segments.fabric


def build_site(design: Design, conditions: Conditions = ALL_WELL) -> Site:
    """Climb from the document to the policies."""
    segments = compute_segments(build_fabric(design, conditions))
    policies = build_policies(design)
    return Site(design, segments, build_network(segments, conditions, policies.claims), policies)
