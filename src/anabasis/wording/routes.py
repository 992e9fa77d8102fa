"""What a policy route looks at beside the destination, as a person reads it."""

from __future__ import annotations

from collections.abc import Sequence


def looks_at(sources: Sequence[str], services: Sequence[str], entered: Sequence[str]) -> str:
    """Return the conditions of a policy route: `from 10.64.12.0/24, https, in by t.12`; empty where it has none."""
    parts = [f"from {' or '.join(sources)}"] if sources else []
    parts += [" or ".join(services)] if services else []
    parts += [f"in by {' or '.join(entered)}"] if entered else []
    return ", ".join(parts)
