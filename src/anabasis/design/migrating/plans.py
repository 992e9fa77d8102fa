"""What a migration asks for, and how it is read."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from anabasis.errors import InputRefused, Problem, nearest


class _Plan(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Renumber(_Plan):
    """A subnet gets other addresses; every host keeps its number in it."""

    kind: Literal["renumber"]
    subnet: str = Field(description="The subnet as it is: 10.64.130.0/24.")
    to: str = Field(description="The subnet as it is to be.")


class MoveGateway(_Plan):
    """The gateway of a VLAN moves to another box, its addresses, answers and leases with it."""

    kind: Literal["move-gateway"]
    vlan: int = Field(description="The VLAN whose gateway moves.")
    device: str = Field(description="The box that is to be the gateway.")
    line: str | None = Field(
        default=None,
        description="Its routed port or bundle that carries the VLAN as a tag; left out = its own VLAN interface.",
    )
    zone: str | None = Field(default=None, description="Of a firewall: the zone it is to be in.")
    answers: str | None = Field(
        default=None, description="What it answers there; left out = the list of that name, where it has one."
    )
    via: str | None = Field(
        default=None,
        description="The address of the new box by which the old one reaches the VLAN; left out = on a subnet both are in.",
    )


class ToRouted(_Plan):
    """A transparent firewall, inline or bridged, becomes the gateway of who stands behind it."""

    kind: Literal["inline-to-routed", "bridged-to-routed"]
    device: str = Field(description="The firewall.")
    outer: str = Field(description="Its port towards the gateway as it is now.")
    inner: str = Field(description="Its port towards the hosts.")
    subnet: str = Field(description="The subnet that goes across it now.")
    gateway: str = Field(description="The box that is the gateway now.")
    transit: str = Field(
        description="A subnet for the link between the two: its first address for that box, the second for the firewall."
    )
    tag: int | None = Field(default=None, description="The VLAN as a tag on both ports; left out = without.")


class ToBridged(_Plan):
    """A firewall that routes between two of its ports becomes transparent between them; the box on the other side of the link becomes the gateway."""

    kind: Literal["routed-to-bridged"]
    device: str = Field(description="The firewall.")
    outer: str = Field(description="Its port towards the box that becomes the gateway.")
    inner: str = Field(description="Its port towards the hosts.")
    vlan: int = Field(description="The VLAN that it bridges between the two.")
    gateway: str = Field(description="The box that is to be the gateway.")


class ToPair(_Plan):
    """One unit becomes a pair."""

    kind: Literal["single-to-pair"]
    device: str = Field(description="The firewall.")
    first: str | None = Field(default=None, description="What the unit that is there is to be called.")
    second: str | None = Field(default=None, description="What the second unit is to be called.")


Plan = Annotated[Renumber | MoveGateway | ToRouted | ToBridged | ToPair, Field(discriminator="kind")]
MODELS: dict[str, type[BaseModel]] = {
    "renumber": Renumber,
    "move-gateway": MoveGateway,
    "inline-to-routed": ToRouted,
    "bridged-to-routed": ToRouted,
    "routed-to-bridged": ToBridged,
    "single-to-pair": ToPair,
}
KINDS = tuple(MODELS)


def read_plan(value: Any) -> list[Plan]:
    """Return the plan of a mapping, or the plans of a list of them. Raises InputRefused with the place and what is allowed."""
    entries = value if isinstance(value, list) else [value]
    out: list[Plan] = []
    for k, entry in enumerate(entries):
        at = f"/{k}" if isinstance(value, list) else ""
        kind = entry.get("kind") if isinstance(entry, dict) else None
        if kind not in KINDS:
            raise InputRefused(
                [
                    Problem(
                        f"{at}/kind",
                        "there is no such migration",
                        repr(kind),
                        ", ".join(KINDS),
                        nearest(str(kind), KINDS),
                    )
                ]
            )
        try:
            out.append(TypeAdapter[Plan](Plan).validate_python(entry))
        except ValidationError as error:
            problems = []
            for wrong in error.errors():
                place = "/".join(str(x) for x in wrong["loc"][1:])
                problems.append(Problem(f"{at}/{place}", wrong["msg"].lower(), repr(wrong["input"])[:60]))
            raise InputRefused(problems) from None
    return out
