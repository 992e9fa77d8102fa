"""Every kind of fault, and all single faults that a design can have."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.faults import addressing, filtering, learning, leases, links, opening, policy, tenants, tunnelling, vlans
from anabasis.faults.kinds import Fault, FaultKind, Look

KINDS: dict[str, FaultKind] = {
    kind.name: kind
    for module in (links, vlans, addressing, learning, leases, policy, tunnelling, tenants, filtering)
    for kind in module.FAMILY
}
"""What stops working, and is to be found by what it shows."""
OPENING: dict[str, FaultKind] = {kind.name: kind for kind in opening.FAMILY}
"""What opens, and shows nowhere."""


def faults_of(tree: Tree, kind: str | None = None, opening: bool = False) -> Iterator[Fault]:
    """Yield the single faults that a design can have, kind by kind. `opening`: those that open after those that stop. Raises UnknownPlace where there is no such kind."""
    every = KINDS | OPENING
    if kind is not None and kind not in every:
        known = list(every)
        raise UnknownPlace(
            [Problem("/kind", "there is no such kind of fault", repr(kind), ", ".join(known), nearest(kind, known))]
        )
    look = Look(tree)
    for one in (every if opening else KINDS).values() if kind is None else (every[kind],):
        for edit, guilty in one.make(look):
            yield Fault(one.name, edit, tuple(dict.fromkeys(guilty)))


__all__ = ["KINDS", "OPENING", "Fault", "FaultKind", "faults_of"]
