"""The frame-flow engine against a simulator that knows nothing of it: one frame at a time, over the plain tree of the document."""

from __future__ import annotations

from typing import Any

from hypothesis import given

from anabasis.design import parse_design
from anabasis.fabric import Fabric, build_fabric
from tests.counts import law
from tests.sites import VLANS, Tree, sites

Arrival = tuple[str, str, int | None]
"""(box, port, tag on the wire or None)."""


class Simulator:
    """Switches, fences and whatever else hangs on cables, as a person would play it through with pencil and paper."""

    def __init__(self, tree: Tree, blocked: set[tuple[str, str]]) -> None:
        self.blocked = blocked
        self.boxes = {d["name"]: d for d in tree["devices"]}
        self.ports = {(d["name"], p["name"]): p for d in tree["devices"] for p in d.get("ports", [{"name": "1"}])}
        for d in tree["devices"]:
            if "ports" not in d:
                self.ports[d["name"], "1"] = {"name": "1"}
        self.far: dict[tuple[str, str], tuple[str, str]] = {}
        for d in tree["devices"]:
            for air in d.get("ssids", []):
                self.join(d["name"], air["name"], air)
        for a, b in tree["cables"]:
            one, two = (a.split(":")[0], a.split(":")[1]), (b.split(":")[0], b.split(":")[1])
            airs = {x["name"]: x for x in self.boxes[one[0]].get("ssids", [])}
            if one[1] in airs:  # a client has a port of its own, and leaves the network free for others
                one = self.join(one[0], f"{one[1]} with {two[0]}", airs[one[1]])
            self.far[one], self.far[two] = two, one
        self.table = {
            name: set(VLANS) | {v for p in d.get("ports", []) for v in (*p.get("tagged", []), *p.get("untagged", []))}
            for name, d in self.boxes.items()
        }

    def join(self, box: str, name: str, air: Tree) -> tuple[str, str]:
        """Give a wireless network a port without tags in its VLAN."""
        own = {"pvid": air["vlan"], "untagged": [air["vlan"]], "isolated": air["isolated"]}
        self.ports[box, name] = {"name": name, **own}
        return box, name

    def alive(self, spot: tuple[str, str]) -> bool:
        return bool(self.ports[spot].get("enabled", True))

    def line_up(self, spot: tuple[str, str]) -> bool:
        return spot in self.far and self.alive(spot) and self.alive(self.far[spot])

    def bridged(self, spot: tuple[str, str]) -> bool:
        default = "bridged" if self.boxes[spot[0]]["kind"] in ("switch", "access-point") else "off"
        return bool(self.ports[spot].get("mode", default) == "bridged")

    def vlan_of(self, spot: tuple[str, str], tag: int | None) -> int | None:
        port = self.ports[spot]
        untagged, tagged = port.get("untagged", []), port.get("tagged", [])
        accept = port.get("accept") or ("untagged" if len(untagged) == 1 and not tagged else "all")
        if (tag is None and accept == "tagged") or (tag is not None and accept == "untagged"):
            return None
        vlan = port.get("pvid") if tag is None else tag
        if vlan is None or vlan not in self.table[spot[0]]:
            return None
        if port.get("ingress_check", True) and vlan not in [*untagged, *tagged]:
            return None
        return int(vlan)

    def out_of(self, box: str, vlan: int, came: tuple[str, str]) -> list[Arrival]:
        frames: list[Arrival] = []
        for (owner, name), port in self.ports.items():
            spot = (owner, name)
            if owner != box or spot == came or not self.bridged(spot) or spot in self.blocked or not self.alive(spot):
                continue
            if port.get("isolated") and self.ports[came].get("isolated"):
                continue
            if vlan in port.get("untagged", []):
                frames.append((*spot, None))
            elif vlan in port.get("tagged", []):
                frames.append((*spot, vlan))
        return frames

    def broadcast(self, start: tuple[str, str], tag: int | None) -> set[Arrival]:
        """Return where a frame comes out that a host sends into an edge port: (box, port, tag) as a host there would see it."""
        seen: set[Arrival] = set()
        heard: set[Arrival] = set()
        todo: list[Arrival] = [(*start, tag)]
        while todo:
            box, name, form = todo.pop()
            spot = (box, name)
            if (box, name, form) in seen:
                continue
            seen.add((box, name, form))
            wires: list[dict[str, Any]] = self.boxes[box].get("wires", [])
            pair = next((w for w in wires if name in w["ends"]), None)
            leaving: list[Arrival] = []
            if pair is not None:
                if pair.get("tags", "any") == "any" or ("untagged" if form is None else form) in pair["tags"]:
                    leaving = [(box, pair["ends"][name == pair["ends"][0]], form)]
            elif self.bridged(spot) and spot not in self.blocked:
                vlan = self.vlan_of(spot, form)
                leaving = self.out_of(box, vlan, spot) if vlan is not None else []
            for out_box, out_port, out_form in leaving:
                out = (out_box, out_port)
                if out not in self.far:
                    heard.add((*out, out_form))
                elif self.line_up(out):
                    todo.append((*self.far[out], out_form))
        return heard


def edge_ports(fabric: Fabric) -> dict[Arrival, Any]:
    """Return the attachments of ports without a cable, as the simulator names them."""
    return {
        (t.box, t.port or "", t.form or None): t
        for t in fabric.attachments
        if t.kind == "edge" and fabric.ports[t.box, t.port or ""].peer is None
    }


@law(1000, 80)
@given(sites())
def test_the_engine_agrees_with_the_simulator(tree: Tree) -> None:
    """For every free edge port and every form: the same free ports hear a broadcast, in the same form."""
    for device in tree["devices"]:
        for wire in device.get("wires", []):
            wire["follow_link"] = False  # the simulator knows no link state but cable and switch
    fabric = build_fabric(parse_design(tree))
    simulator = Simulator(tree, set(fabric.tree.blocked))
    attachments = edge_ports(fabric)
    for (box, port, form), attachment in attachments.items():
        engine = {
            key for key, other in attachments.items() if other is not attachment and fabric.delivers(attachment, other)
        }
        played = {(b, p, f) for b, p, f in simulator.broadcast((box, port), form) if (b, p, f) in attachments} - {
            (box, port, form)
        }
        assert engine == played, f"from {box}:{port} in form {form}"


@law(2000, 120)
@given(sites())
def test_what_is_easy_is_what_following_frames_finds(tree: Tree) -> None:
    """Components taken at once agree with every frame followed one by one."""
    fabric = build_fabric(parse_design(tree))
    for attachment in fabric.attachments:
        assert fabric.heard(attachment) == fabric.followed(attachment), attachment.label
