"""Units that refuse each other: those of unlike traits (docs/semantics.md, "Failover pairs")."""

from __future__ import annotations

from anabasis.design.devices import Firewall


def unlike_traits(device: Firewall) -> list[str]:
    """Return the traits in which the units of a pair differ; one that a unit says nothing of is not told apart."""
    known = dict.fromkeys(t for u in device.units for t in u.traits)
    return [t for t in known if len({u.traits[t] for u in device.units if t in u.traits}) > 1]
