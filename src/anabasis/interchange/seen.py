"""One box as it says it is, by whatever it was asked or written in."""

from __future__ import annotations

from dataclasses import dataclass, field

from pydantic import TypeAdapter, ValidationError

from anabasis.design import Tree
from anabasis.design.devices import Device


@dataclass(frozen=True)
class Neighbour:
    """Who a port has heard of by LLDP (IEEE 802.1AB)."""

    port: str
    device: str
    far: str
    kind: str = "switch"
    """By the capabilities it names."""


@dataclass
class Seen:
    """One box as a site says it is."""

    name: str
    device: Tree
    """As the document has it."""
    whole: bool = False
    """Whether our own module told all that the document has of it."""
    told: frozenset[str] = frozenset()
    """Members of the modules that it spoke of, on top."""
    vlans: dict[int, str] = field(default_factory=dict)
    down: frozenset[str] = frozenset()
    neighbours: tuple[Neighbour, ...] = ()
    hears: bool = False
    """Whether it tells of its neighbours at all."""
    data: Tree = field(default_factory=dict)
    """What it said, as data of the modules."""
    box: str = ""
    """The unit of a pair that was asked; else the name again."""
    site: Tree = field(default_factory=dict)
    """What it says of the site as a whole: the sets that its rules name, the plan."""
    lost: tuple[str, ...] = ()
    """Interfaces, and lists, that the document has no place for in such a box."""
    by_objects: bool = False
    """Whether it spoke SNMP alone: then the design is held against it by what such objects can say."""

    @property
    def possible(self) -> bool:
        """Tell whether a box can be what it says: its values are such as there are, and no two ports are called alike."""
        try:
            device = TypeAdapter[Device](Device).validate_python(self.device)
        except ValidationError:
            return False
        names = [p.name for p in device.ports]
        return len(set(names)) == len(names)
