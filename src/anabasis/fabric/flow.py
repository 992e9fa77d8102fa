"""The directed flow of frames through the whole site.

A **attachment** is a place where a host or a layer-3 interface stands: a form on an edge port, a routed port, a subinterface, a VLAN
interface, an endpoint. A **wire state** is a frame in some form about to enter a port. Frames go from attachment to wire state to
wire state to attachment; each step obeys IEEE 802.1Q at that port, "never back out of the ingress port", and `isolated`. Nothing is assumed
symmetric. A step may cross a **filtering point**; whether the frame passes it is a matter of policy, decided above.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Collection, Iterator
from dataclasses import dataclass, field

from anabasis.design.devices import AccessPoint, BridgingBox, Device, Firewall
from anabasis.design.document import Design
from anabasis.design.notation import pointer
from anabasis.design.ports import Lag, Layer3, OverlayPort
from anabasis.design.ports import Wire as InlinePair
from anabasis.design.references import unit_names
from anabasis.fabric.bundles import LinkPort, link_ports
from anabasis.fabric.components import Components, easy_components
from anabasis.fabric.conditions import ALL_WELL, Conditions, carrying_units, groups_of
from anabasis.fabric.frames import UNTAGGED, edge_forms, egress, ingress, meant, member_vlans
from anabasis.fabric.links import Spot
from anabasis.fabric.trees import Tree, spanning_tree
from anabasis.facts import Cause, Layer, Wrong, because
from anabasis.once import changed, once
from anabasis.wording import frames


@dataclass(frozen=True, eq=False)
class Attachment:
    """A place where a host or a layer-3 interface stands. Each is one object in its fabric; compared by identity."""

    index: int
    kind: str
    """`edge` for a switch port a host may use, `interface` for a layer-3 interface, `endpoint`, `outside`."""
    box: str
    device: str
    name: str
    """Interface or port name: `1`, `trunk.110`, `vlan110`."""
    port: str | None
    """The port or bundle it uses; None for a VLAN interface."""
    form: int
    """Form of its frames on the wire; for a VLAN interface, the VLAN."""
    pointer: str
    settings: Layer3 | None

    @property
    def label(self) -> str:
        """Return `box:name`."""
        return f"{self.box}:{self.name}"


Wire = tuple[Spot, int]
"""A wire state: (the port the frame is about to enter, its form)."""


@dataclass(frozen=True)
class Crossing:
    """A filtering point a frame passes: two bridged ports of a firewall that are not in one zone, or the ends of an inline pair."""

    device: str
    kind: str
    """`bridged` or `inline`."""
    entered: str
    left: str
    """Labels of the two ports."""
    from_zone: str | None
    to_zone: str | None
    pointer: str
    """The port entered, or the inline pair."""
    sides: tuple[str, str] = ("", "")
    """The two ports, as pointers."""


Move = tuple["Attachment | Wire", Crossing | None]


@dataclass(frozen=True)
class Carriage:
    """How a frame gets from one attachment to another: the wire states it passes, and before each what it crosses."""

    steps: tuple[tuple[Wire, Crossing | None], ...]
    last: Crossing | None
    """What it crosses before the goal itself."""

    @property
    def crossings(self) -> tuple[Crossing, ...]:
        """Return every filtering point on the way."""
        return tuple(c for c in (*(c for _, c in self.steps), self.last) if c is not None)


@dataclass(frozen=True)
class Fabric:
    """Layer 1 and 2 of a site under given conditions."""

    design: Design
    ports: dict[Spot, LinkPort]
    attachments: tuple[Attachment, ...]
    tables: dict[str, frozenset[int] | None]
    """VLAN table by box; None for a hub, which has none."""
    devices: dict[str, Device] = field(repr=False)
    """Device by box."""
    tree: Tree = field(repr=False)
    at_port: dict[tuple[Spot, int], Attachment] = field(repr=False)
    at_vlan: dict[tuple[str, int], Attachment] = field(repr=False)

    @once
    def at_place(self) -> dict[tuple[str, str, int], Attachment]:
        """Return attachment by (box, interface or port, form)."""
        return {(t.box, t.name, t.form): t for t in self.attachments}

    def described_by(self, design: Design) -> Fabric:
        """Return the same layers 1 and 2 for a design that does not differ in them."""
        return changed(self, design=design, devices=_devices(design))

    @once
    def members(self) -> dict[tuple[str, int], list[tuple[LinkPort, int]]]:
        """Return (box, VLAN) -> its member ports that may send now, each with the form it sends."""
        out: dict[tuple[str, int], list[tuple[LinkPort, int]]] = defaultdict(list)
        for port in self.ports.values():
            if self._sends(port) and self.tables[port.box] is not None:
                for vlan in member_vlans(port.settings):
                    form = egress(port.settings, vlan)
                    if form is not None and self.carries(port.box, vlan):
                        out[port.box, vlan].append((port, form))
        return out

    def _sends(self, port: LinkPort) -> bool:
        awake = port.bridges and port.forwarding and port.spot not in self.tree.blocked
        return awake and (port.up or is_edge(port, self))

    @once
    def _repeaters(self) -> dict[str, list[LinkPort]]:
        """Return hub -> its ports that repeat."""
        out: dict[str, list[LinkPort]] = defaultdict(list)
        for port in self.ports.values():
            if self.tables[port.box] is None and (port.up or is_edge(port, self)):
                out[port.box].append(port)
        return out

    @once
    def inline_pairs(self) -> dict[Spot, tuple[LinkPort, InlinePair, str]]:
        """Return inline port -> (the other end, the pair's settings, its pointer)."""
        out: dict[Spot, tuple[LinkPort, InlinePair, str]] = {}
        for d, device in enumerate(self.design.devices):
            for i, wire in enumerate(device.wires if isinstance(device, Firewall) else []):
                for box in unit_names(device):
                    ends = [self.ports.get((box, end)) for end in wire.ends]
                    if all(e is not None and e.mode == "inline" for e in ends):
                        one, two = ends
                        at = pointer("devices", d, "wires", i)
                        out[one.spot], out[two.spot] = (two, wire, at), (one, wire, at)  # type: ignore[union-attr, assignment]
        return out

    @once
    def filters(self) -> bool:
        """Tell whether the site has any filtering point at layer 2."""
        return bool(self.inline_pairs) or any(self.meets(*node) for node in self.members)

    def meets(self, box: str, vlan: int) -> bool:
        """Tell whether ports that a filter divides meet in a VLAN of a box."""
        if (box, vlan) not in self._meeting:
            device, ports = self.devices[box], [p for p, _ in self.members.get((box, vlan), [])]
            self._meeting[box, vlan] = isinstance(device, Firewall) and any(
                crossing_between(device, one, two, vlan) for one in ports for two in ports if one is not two
            )
        return self._meeting[box, vlan]

    @once
    def _meeting(self) -> dict[tuple[str, int], bool]:
        return {}

    def carries(self, box: str, vlan: int) -> bool:
        """Tell whether a box has a VLAN in its table."""
        table = self.tables[box]
        return table is None or vlan in table

    def lacks(self, box: str, vlan: int) -> bool:
        """Tell whether a box has a VLAN table of its own that does not have a VLAN."""
        return not self.carries(box, vlan) and getattr(self.devices[box], "vlans", None) is not None

    def classify(self, wire: Wire) -> tuple[int | None, Cause | None]:
        """Return the VLAN of a frame about to enter a bridged port, or None and why it is dropped."""
        spot, form = wire
        port = self.ports[spot]
        if self.tables[port.box] is None:
            return form, None
        if spot in self.tree.blocked:
            return None, self.tree.blocked[spot]
        vlan, wrong = ingress(port.settings, form, self.tables[port.box])
        return vlan, None if wrong is None else self.dropped(port, form, wrong)

    def dropped(self, port: LinkPort, form: int, wrong: Wrong) -> Cause:
        """Return why a bridged port drops frames of a form."""
        vlan = meant(port.settings, form) or 0
        if wrong == Wrong.NOT_IN_TABLE and self.lacks(port.box, vlan):
            return self.not_in_table(port, vlan)
        if wrong == Wrong.NOT_IN_TABLE:
            wrong = Wrong.NO_MEMBER
        key = "accept" if wrong in (Wrong.TAGGED_ONLY, Wrong.UNTAGGED_ONLY) and port.settings.accept else ""
        at = f"{port.pointer}/{key}" if key else port.pointer
        return because(Layer.VLAN, wrong, at, port=port.label, frame=frames(form), vlan=vlan)

    def not_in_table(self, port: LinkPort, vlan: int) -> Cause:
        """Return that the table of a port's device lacks a VLAN."""
        at, device = self.item_of(port.device), port.device
        return because(Layer.VLAN, Wrong.NOT_IN_TABLE, f"{at}/vlans", vlan=vlan, device=device)

    def item_of(self, device: str) -> str:
        """Return the pointer of a device."""
        return pointer("devices", next(k for k, d in enumerate(self.design.devices) if d.name == device))

    def leave(self, port: LinkPort, form: int) -> Iterator[Attachment | Wire]:
        """Yield where a frame goes that leaves a port in a form."""
        if (port.spot, form) in self.at_port and self.at_port[port.spot, form].kind == "edge":
            yield self.at_port[port.spot, form]
        if port.up and port.peer:
            yield port.peer, form

    def flood(self, box: str, vlan: int, source: LinkPort | None) -> Iterator[Move]:
        """Yield where a frame of a VLAN inside a box goes next (IEEE 802.1Q clause 8.6: never back out of the ingress port)."""
        if (box, vlan) in self.at_vlan and source is not None and self.tables[box] is not None:
            yield self.at_vlan[box, vlan], None
        for port, form in self._outlets(box, vlan):
            crossing = None
            if source is not None:
                if port.spot == source.spot or kept_apart(source, port):
                    continue
                crossing = crossing_between(self.devices[box], source, port, vlan)
            for step in self.leave(port, form):
                yield step, crossing

    def _outlets(self, box: str, vlan: int) -> list[tuple[LinkPort, int]]:
        if self.tables[box] is None:  # a hub repeats every frame in the form it came in
            return [(p, vlan) for p in self._repeaters[box]]
        return self.members.get((box, vlan), [])

    def next(self, node: Attachment | Wire) -> Iterator[Move]:
        """Yield the next nodes of a frame: from an attachment what it sends, from a wire state what the port makes of it."""
        if isinstance(node, Attachment):
            if node.port is None:
                yield from self.flood(node.box, node.form, None)
            elif node.kind == "edge":
                yield ((node.box, node.port), node.form), None
            else:
                yield from ((step, None) for step in self.leave(self.ports[node.box, node.port], node.form))
            return
        port = self.ports[node[0]]
        if not port.forwarding:
            return
        if port.spot in self.inline_pairs:
            yield from self._through(port, node[1])
        elif not port.bridges:
            if node in self.at_port:
                yield self.at_port[node], None
        else:
            vlan, _ = self.classify(node)
            if vlan is not None:
                yield from self.flood(port.box, vlan, port)

    def _through(self, port: LinkPort, form: int) -> Iterator[Move]:
        """An inline pair: what enters one end leaves the other, in the same form, where its tags allow."""
        other, wire, at = self.inline_pairs[port.spot]
        if wire_carries(wire, form):
            crossing = Crossing(
                port.device,
                "inline",
                port.label,
                other.label,
                port.settings.zone,
                other.settings.zone,
                at,
                (port.pointer, other.pointer),
            )
            yield from ((step, crossing) for step in self.leave(other, form))

    def heard(self, attachment: Attachment) -> frozenset[Attachment]:
        """Return the attachments that a frame sent by an attachment gets to without crossing a filtering point. Computed once an attachment."""
        if attachment.index not in self._heard:
            easy = self.easy.of_attachment.get(attachment.index)
            self._heard[attachment.index] = (
                self.followed(attachment) if easy is None else self.easy.attachments[easy] - {attachment}
            )
        return self._heard[attachment.index]

    @once
    def easy(self) -> Components:
        """Return the components of layer 2 in which no frame needs to be followed."""
        return easy_components(self)

    @once
    def _heard(self) -> dict[int, frozenset[Attachment]]:
        return {}

    def followed(self, start: Attachment) -> frozenset[Attachment]:
        """Return the same as `heard`, by following every frame. Cost: steps of a frame."""
        attachments: set[Attachment] = set()
        seen: set[Wire] = set()
        todo: list[Attachment | Wire] = [start]
        while todo:
            for step, crossing in self.next(todo.pop()):
                if crossing is not None:
                    continue
                if isinstance(step, Attachment):
                    attachments.add(step)
                elif step not in seen:
                    seen.add(step)
                    todo.append(step)
        return frozenset(attachments - {start})

    def carry(self, start: Attachment, goal: Attachment) -> Carriage | None:
        """Return how a frame gets from one attachment to another, over the fewest filtering points, or None; an attachment hears itself."""
        return Carriage((), None) if start is goal else self._reached(start).get(goal.index)

    def over_overlay(self, carriage: Carriage) -> bool:
        """Tell whether frames are carried over an overlay on their way."""
        return any(isinstance(self.ports[spot].settings, OverlayPort) for (spot, _), _ in carriage.steps)

    def reached(self, start: Attachment) -> Collection[int]:
        """Return the indices of the attachments that frames of an attachment get to, whatever filters stand between."""
        return self._reached(start).keys()

    def _reached(self, start: Attachment) -> dict[int, Carriage]:
        if start.index not in self._carried:
            self._carried[start.index] = self._carriages(start)
        return self._carried[start.index]

    def delivers(self, start: Attachment, goal: Attachment) -> bool:
        """Tell whether frames get from one attachment to another, whatever filters stand between."""
        return self.carry(start, goal) is not None

    @once
    def _carried(self) -> dict[int, dict[int, Carriage]]:
        return {}

    def _carriages(self, start: Attachment) -> dict[int, Carriage]:
        """Search outwards from an attachment, fewest crossings first (a 0-1 breadth-first search)."""
        before: dict[Wire, tuple[Wire | None, Crossing | None]] = {}
        settled: set[Wire] = set()
        found: dict[int, tuple[int, Wire | None, Crossing | None]] = {}
        todo: deque[tuple[int, Wire | None]] = deque([(0, None)])
        while todo:
            cost, wire = todo.popleft()
            if wire is not None:
                if wire in settled:
                    continue
                settled.add(wire)
            for step, crossing in self.next(start if wire is None else wire):
                total = cost + (crossing is not None)
                if isinstance(step, Attachment):
                    if step.index not in found or total < found[step.index][0]:
                        found[step.index] = (total, wire, crossing)
                elif step not in settled and (step not in before or crossing is None):
                    before[step] = (wire, crossing)
                    todo.append((total, step)) if crossing else todo.appendleft((total, step))
        return {k: Carriage(_unwind(wire, before), crossing) for k, (_, wire, crossing) in found.items()}


def _unwind(
    last: Wire | None, before: dict[Wire, tuple[Wire | None, Crossing | None]]
) -> tuple[tuple[Wire, Crossing | None], ...]:
    path: list[tuple[Wire, Crossing | None]] = []
    while last is not None:
        path.append((last, before[last][1]))
        last = before[last][0]
    return tuple(path[::-1])


def bridges_frames(port: LinkPort) -> bool:
    """Tell whether a port is there to bridge: it does, or would if it were not off."""
    settings = port.settings
    switched = port.kind == "switch" or bool(settings.tagged or settings.untagged)
    return port.bridges or (port.mode == "off" and switched and not settings.subinterfaces)


def wire_carries(wire: InlinePair, form: int) -> bool:
    """Tell whether an inline pair lets a form through: `any` everything, a list only what it names."""
    return wire.tags == "any" or ("untagged" if form == UNTAGGED else form) in wire.tags


def kept_apart(source: LinkPort, target: LinkPort) -> bool:
    """Tell whether two ports of one box never exchange frames: both isolated, or both on the overlay (split horizon)."""
    one, two = source.settings, target.settings
    return one.isolated and two.isolated and isinstance(one, OverlayPort) == isinstance(two, OverlayPort)


def crossing_between(device: Device, source: LinkPort, target: LinkPort, vlan: int) -> Crossing | None:
    """Return the filtering point between two bridged ports of a firewall, or None where they are switched (docs/semantics.md, "Frames and segments")."""
    if not isinstance(device, Firewall):
        return None
    here, there = bridged_zone(source, vlan), bridged_zone(target, vlan)
    if here is not None and here == there and device.same_zone == "permit":
        zone = next((z for z in device.zones if z.name == here), None)
        if zone is not None and not zone.filter_inside:
            return None
    sides = source.pointer, target.pointer
    return Crossing(device.name, "bridged", source.label, target.label, here, there, source.pointer, sides)


def bridged_zone(port: LinkPort, vlan: int) -> str | None:
    """Return the zone of a bridged port in a VLAN: that of its subinterface for the VLAN, else its own."""
    own = next((s.zone for s in port.settings.subinterfaces if s.tag == vlan), None)
    return own or port.settings.zone


def is_edge(port: LinkPort, fabric: Fabric) -> bool:
    """Tell whether hosts may stand on a bridged port: it is enabled and leads to an endpoint, or nowhere yet."""
    if not port.bridges or not port.settings.enabled or not port.forwarding:
        return False
    if port.peer is None:
        return any(m.free for m in port.members) and not isinstance(port.settings, Lag)
    return port.up and fabric.devices[port.peer[0]].kind == "endpoint"


def _free_forms(port: LinkPort, fabric: Fabric) -> list[int]:
    """Return the forms of an edge port in which no endpoint stands yet."""
    forms = edge_forms(port.settings) if fabric.tables[port.box] is not None else [UNTAGGED]
    if port.peer is None:
        return forms
    far = fabric.ports[port.peer].settings
    return [f for f in forms if f not in {UNTAGGED, *(s.tag for s in far.subinterfaces)}]


def build_fabric(design: Design, conditions: Conditions = ALL_WELL) -> Fabric:
    """Compute layers 1 and 2 of a checked design."""
    plan = frozenset(v.id for v in design.vlans)
    devices = _devices(design)
    tables: dict[str, frozenset[int] | None] = {}
    for box, device in devices.items():
        own = device.vlans if isinstance(device, BridgingBox) else None
        tables[box] = None if device.kind == "hub" else plan | _used(device) if own is None else frozenset(own)
    ports = link_ports(design, conditions)
    tree = spanning_tree(ports, devices)
    fabric = Fabric(design, ports, (), tables, devices, tree, {}, {})
    attachments = tuple(Attachment(i, *rest) for i, rest in enumerate(_attachments(fabric, conditions)))
    at_port = {((t.box, t.port), t.form): t for t in attachments if t.port is not None}
    at_vlan = {(t.box, t.form): t for t in attachments if t.port is None}
    return Fabric(design, ports, attachments, tables, devices, tree, at_port, at_vlan)


def _devices(design: Design) -> dict[str, Device]:
    return {box: device for device in design.devices for box in unit_names(device)}


def _used(device: Device) -> frozenset[int]:
    """A device without a table of its own knows the plan and whatever its own ports name."""
    ports = [*device.ports, *getattr(device, "lags", [])]
    ports += [s.as_port() for s in device.ssids] if isinstance(device, AccessPoint) else []
    used = {v for p in ports for v in (*p.untagged, *p.tagged, p.pvid) if v is not None}
    return frozenset(used | {v.vlan for v in getattr(device, "vlan_interfaces", [])})


def _attachments(
    fabric: Fabric, conditions: Conditions
) -> Iterator[tuple[str, str, str, str, str | None, int, str, Layer3 | None]]:
    devices = {d.name: d for d in fabric.design.devices}
    for port in fabric.ports.values():
        if not port.forwarding:
            continue
        settings, name = port.settings, port.settings.name
        if is_edge(port, fabric):
            for form in _free_forms(port, fabric):
                yield "edge", port.box, port.device, name, name, form, port.pointer, None
        elif port.mode == "routed":
            kind = {"endpoint": "endpoint", "outside": "outside"}.get(port.kind, "interface")
            own = devices[port.device]
            mine = [g for g in groups_of(own) if port.box in carrying_units(own, conditions, g)]
            if (settings.addresses or not settings.subinterfaces or kind != "interface") and (
                settings.group in mine or len(groups_of(own)) == 1
            ):
                yield kind, port.box, port.device, name, name, UNTAGGED, port.pointer, settings
            for i, sub in enumerate(settings.subinterfaces):
                at = f"{port.pointer}/subinterfaces/{i}"
                if sub.enabled and (sub.group in mine or len(groups_of(own)) == 1):
                    yield kind, port.box, port.device, f"{name}.{sub.tag}", name, sub.tag, at, sub
    for d, device in enumerate(fabric.design.devices):
        for box in carrying_units(device, conditions):
            for i, vlan_interface in enumerate(getattr(device, "vlan_interfaces", [])):
                at = pointer("devices", d, "vlan_interfaces", i)
                if vlan_interface.enabled and fabric.carries(box, vlan_interface.vlan):
                    name = f"vlan{vlan_interface.vlan}"
                    yield "interface", box, device.name, name, None, vlan_interface.vlan, at, vlan_interface
