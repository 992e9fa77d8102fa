"""What a laptop on a port finds, as a person reads it."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field

from anabasis.facts import Cause, Layer
from anabasis.probe import NameTest, Plug
from anabasis.wording import say


@dataclass(frozen=True)
class PlugRow:
    """What a laptop on a port finds."""

    vlan: int | None
    segment: str | None
    address: str | None
    """What it is handed; None where nobody hands out one."""
    gateway: str | None
    server: str | None
    options: dict[str, str]
    """DNS, NTP, lease time and further options handed out with it."""
    static: str | None
    """Where nobody hands out an address: a free one of the subnet, with which `reaches` is computed."""
    reaches: list[str]
    layer: Layer | None
    reason: str
    decided_by: list[str]
    assumed: bool
    """What is handed out stands in no design: a relay's server is somebody else's."""
    why_not: str
    """Where it reaches nothing, why not."""
    address_v6: str | None
    """What it forms of the prefix a router announces there; assumed, as the laptop has no hardware address."""
    gateway_v6: str | None
    names: str
    """Which name server answers, or why none does; empty where it was handed nothing of the kind by anybody known."""
    names_layer: Layer | None
    """The layer at which the question for a name stops; None where it is answered, or was not asked."""
    cause: Cause | None = field(default=None, compare=False)

    def as_dict(self) -> dict[str, object]:
        """Return it for JSON (command-line promise, `plug`)."""
        out = asdict(self)
        del out["cause"]
        return out


def plug_row(found: Plug) -> PlugRow:
    """Return what a laptop finds with its sentences."""
    return PlugRow(
        found.vlan,
        found.segment,
        found.address,
        found.gateway,
        found.server,
        found.options,
        found.static,
        found.reaches,
        found.layer,
        found.reason,
        found.decided_by,
        found.assumed,
        found.why_not,
        found.address_v6,
        found.gateway_v6,
        _names(found.names),
        found.names.cause.layer if found.names is not None and found.names.cause is not None else None,
        found.cause,
    )


def _names(test: NameTest | None) -> str:
    if test is None:
        return ""
    return f"{test.server} answers" if test.server is not None else say(test.cause)
