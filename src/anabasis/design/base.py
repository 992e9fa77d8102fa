"""What all parts of the document share: strict keys, notes, and checked text."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from anabasis.design import notation


class Part(BaseModel):
    """A part of the document. Unknown keys are errors; values are never changed by the program."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True)

    note: str | None = Field(default=None, description="Why it is there, whose it is; shown wherever the part shows.")


def _checked(parse: Callable[[str], Any]) -> AfterValidator:
    def check(text: str) -> str:
        parse(text)
        return text

    return AfterValidator(check)


def _member(text: str) -> str:
    if notation.looks_like_address(text):
        notation.parse_span(text)
    else:
        notation.parse_name(text)
    return text


def _service_member(text: str) -> str:
    if "/" in text:
        notation.parse_service(text)
    else:
        notation.parse_name(text)
    return text


MOST, MOST_PORTS = 100_000, 4_096
"""How many rules, cables or sets a document may hold, and how many ports a device: far beyond any site, near enough to be refused at once."""
Name = Annotated[str, _checked(notation.parse_name)]
AddressText = Annotated[str, _checked(notation.parse_address)]
PrefixText = Annotated[str, _checked(notation.parse_prefix)]
InterfaceText = Annotated[str, _checked(notation.parse_interface)]
SpanText = Annotated[str, _checked(notation.parse_span)]
AddressTerm = Annotated[str, AfterValidator(_member)]
"""A prefix, a host, an a-b range, the name of an address set, or `any`."""
ServiceTerm = Annotated[str, AfterValidator(_service_member)]
"""`tcp/443`, `udp/2222-2230`, `icmp/8`, the name of a service (own or IANA), or `any`."""
EndText = Annotated[str, _checked(notation.parse_end)]
VlanId = Annotated[int, Field(ge=1, le=4094, description="IEEE 802.1Q VID; 0 and 4095 are reserved (table 9-2).")]
Milliseconds = Annotated[int, Field(ge=1, le=3_600_000)]
