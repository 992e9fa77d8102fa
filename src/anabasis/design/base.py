"""What all parts of the document share: strict keys, notes, and checked text."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from anabasis.design import notation


class Part(BaseModel):
    """A part of the document. Unknown keys are errors; values are never changed by the program."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True)

    note: str | None = Field(
        default=None, max_length=10_000, description="Why it is there, whose it is; shown wherever the part shows."
    )


def _checked(parse: Callable[[str], Any]) -> AfterValidator:
    def check(text: str) -> str:
        parse(text)
        return text

    return AfterValidator(check)


def _name_or_any(text: str) -> str:
    return text if text == "any" else notation.parse_name(text)


def _member(text: str) -> str:
    if not notation.looks_like_address(text):
        return _name_or_any(text)
    notation.parse_span(text)
    return text


def _route_to(text: str) -> str:
    if notation.looks_like_address(text):
        notation.parse_prefix(text)
        return text
    if text == "any":
        raise ValueError("a prefix such as 0.0.0.0/0, or the name of an address set")
    return notation.parse_name(text)


def _service_member(text: str) -> str:
    if "/" not in text:
        return _name_or_any(text)
    notation.parse_service(text)
    return text


MOST, MOST_PORTS = 100_000, 4_096
"""How many rules, cables or sets a document may hold, and how many ports a device: far beyond any site, near enough to be refused at once."""
Name = Annotated[str, _checked(notation.parse_name)]
BoxName = Annotated[str, _checked(notation.parse_box_name)]
"""The name of a device or a unit."""
AddressText = Annotated[str, _checked(notation.parse_address)]
RouterId = Annotated[str, _checked(notation.parse_router_id)]
AreaText = Annotated[str, _checked(notation.parse_area)]
"""An OSPF area: a number, or four with dots (RFC 2328 section 4.5)."""
TargetText = Annotated[str, _checked(notation.parse_target)]
"""A route target or a distinguisher: two numbers, or an address and a number."""
PrefixText = Annotated[str, _checked(notation.parse_prefix)]
InterfaceText = Annotated[str, _checked(notation.parse_interface)]
SpanText = Annotated[str, _checked(notation.parse_span)]
AddressTerm = Annotated[str, AfterValidator(_member)]
"""A prefix, a host, an a-b range, the name of an address set, or `any`."""
ServiceTerm = Annotated[str, AfterValidator(_service_member)]
"""`tcp/443`, `udp/2222-2230`, `icmp/8`, the name of a service (own or IANA), or `any`."""
HardwareText = Annotated[
    str, Field(pattern=r"^[0-9A-Fa-f]{2}([:-][0-9A-Fa-f]{2}){5}$", description="As 02:00:5e:00:00:01 (IEEE 802).")
]
EndText = Annotated[str, _checked(notation.parse_end)]
VlanId = Annotated[int, Field(ge=1, le=4094, description="IEEE 802.1Q VID; 0 and 4095 are reserved (table 9-2).")]


@dataclass(frozen=True)
class Ref:
    """Declares that a name, a number or a list's entry names another thing of the document; `mentions.py` reads it.

    This is said here once: the check of names, what leans on what, renaming and removing all follow it.
    """

    kind: str
    """`vlan`, `addresses`, `services`, `zone`, `vrf`, `answers`, `filter`, `lag`, `interface`, `port`, `line` (a port or a bundle), `cable-end`,
    `end` (of an expectation) or `device`."""
    loss: Literal["strip", "last", "owner"] = "strip"
    """What becomes of who names a thing that goes: loses the name (`strip`), goes with its last name (`last`), or goes (`owner`)."""
    known: bool = True
    """Whether the thing has to be there."""


VlanRef = Annotated[VlanId, Ref("vlan", known=False)]
VlanOf = Annotated[VlanId, Ref("vlan", "owner", known=False)]
"""The VLAN an interface is of; without it there is no interface."""
ZoneRef = Annotated[Name, Ref("zone")]
ZoneTerm = Annotated[str, AfterValidator(_name_or_any), Ref("zone", "last")]
"""A zone of the device, or `any`."""
InterfaceTerm = Annotated[str, AfterValidator(_name_or_any), Ref("interface", "last")]
"""An interface of the device, or `any`."""
VrfRef = Annotated[Name, Ref("vrf")]
FilterRef = Annotated[Name, Ref("filter")]
AnswersRef = Annotated[Name, Ref("answers")]
LagRef = Annotated[Name, Ref("lag")]
LineRef = Annotated[Name, Ref("line")]
PortOf = Annotated[Name, Ref("port", "owner")]
InterfaceOf = Annotated[Name, Ref("interface", "owner")]
EnteredBy = Annotated[Name, Ref("interface", "last")]
"""An interface that packets come in by, among others."""
AddressRef = Annotated[AddressTerm, Ref("addresses", "last")]
RouteTo = Annotated[str, AfterValidator(_route_to), Ref("addresses", "owner")]
"""A prefix, or the name of an address set: a route for each of its members."""
ServiceRef = Annotated[ServiceTerm, Ref("services", "last")]
Milliseconds = Annotated[int, Field(ge=1, le=3_600_000)]
