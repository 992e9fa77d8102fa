"""One packet, as facts: the walk, step by step, and the lowest cause where it stops. The referee of all pairs; shares nothing with it."""

from anabasis.trace.lowest_cause import SYMPTOMS, no_gateway
from anabasis.trace.walk import Walk, choose_ends, service_text, stopped_at, walk

__all__ = [
    "SYMPTOMS",
    "Walk",
    "choose_ends",
    "no_gateway",
    "service_text",
    "stopped_at",
    "walk",
]
