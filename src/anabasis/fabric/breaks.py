"""Why frames do not get from here to there: the first obstacle on the way with the fewest obstacles.

The search goes over the cables as they are plugged, whatever their state, and counts what stops a frame on each: a line that is
down, a port that is no member, a table that lacks the VLAN, a tag the far end reads as another VLAN. Where two ends disagree, either is to
blame, and the cable between: all of them are guilty.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import count

from anabasis.design.overlay import sides, stretched
from anabasis.design.ports import Lag, OverlayPort
from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.flow import Attachment, Fabric, bridges_frames, is_edge, kept_apart, wire_carries
from anabasis.fabric.frames import UNTAGGED, edge_forms, egress, ingress, member_vlans
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.wording import frames


@dataclass(frozen=True)
class Break:
    """One obstacle: why frames stop, and how far they get."""

    cause: Cause
    port: LinkPort | None = None
    """The port that lacks the VLAN, where joining it would mend the break."""
    vlan: int | None = None
    trail: tuple[tuple[LinkPort, int], ...] = ()
    """The ports the frame enters before it is stopped, each with the VLAN it is put into."""


Spot = tuple[str, int]
"""(box, VLAN); on a hub, (box, form)."""
Trail = tuple[tuple[LinkPort, int], ...]


def why_apart(fabric: Fabric, start: Attachment, goal: Attachment) -> Break:
    """Return the first obstacle between two attachments whose frames do not pass one way or the other. Cost: linear in cables x VLANs met."""
    if fabric.delivers(start, goal) and not fabric.delivers(goal, start):
        start, goal = goal, start
    for attachment in (start, goal):
        node = _stands_in(fabric, attachment)
        lone = lone_vlan(fabric, *node) if node is not None else None
        if lone is not None:
            return Break(lone)
    for attachment in (start, goal):
        own = own_line(fabric, attachment)
        if own:
            return Break(own)
    best: dict[Spot, int] = {}
    order = count()
    todo: list[tuple[int, int, Spot, LinkPort | None, Break | None, Trail]] = []
    for spot, port, obstacle in _starts(fabric, start):
        entered = ((port, spot[1]),) if port is not None and obstacle is None else ()
        heapq.heappush(todo, (int(obstacle is not None), next(order), spot, port, obstacle, entered))
    while todo:
        cost, _, spot, came, first, trail = heapq.heappop(todo)
        if best.get(spot, 1 << 30) <= cost:
            continue
        best[spot] = cost
        if spot == ENDED and first is not None:
            return replace(first, trail=trail)
        arrived, end = _arrival(fabric, spot, came, goal)
        if arrived and (end or first):
            heapq.heappush(todo, (cost + int(end is not None), next(order), ENDED, None, first or end, trail))
        for there, port, obstacle, weight in _steps(fabric, spot, came, goal):
            if there is None and (obstacle or first):
                late = weight + (HOST_PORT if obstacle is not None and _is_access(port, fabric) else 0)
                heapq.heappush(todo, (cost + late, next(order), ENDED, None, first or obstacle, trail))
            elif there is not None:
                further = trail if first or obstacle else (*trail, (port, there[1]))
                heapq.heappush(todo, (cost + weight, next(order), there, port, first or obstacle, further))
    return Break(_no_way(fabric, start, goal))


ENDED = ("", -1)
"""The goal itself, in the search for the way with the fewest obstacles."""
HOST_PORT = 1
"""What an obstacle at a host's own port counts more: an uplink that mixes VLANs up is likelier than a port in the wrong one."""


def _is_access(goal_port: LinkPort, fabric: Fabric) -> bool:
    """Tell whether the last port is an endpoint's."""
    return fabric.devices[goal_port.box].kind == "endpoint"


def unfit(fabric: Fabric, port: LinkPort, form: int) -> Cause | None:
    """Return why a bridged port and whoever is plugged into it do not fit: it drops what comes in a form, or sends nothing in it."""
    if not port.bridges or not port.up or not port.forwarding or fabric.tables[port.box] is None:
        return None
    vlan, dropped = fabric.classify((port.spot, form))
    if vlan is None:
        if dropped is not None and not (member_vlans(port.settings) or port.settings.pvid):
            return because(Layer.VLAN, Wrong.PORT_BARE, *link_items(fabric, port), port=port.label)
        return _either_end(fabric, port, dropped) if dropped is not None else None
    if egress(port.settings, vlan) == form:
        return None
    values: Values = {"port": port.label, "vlan": vlan, "goal": ":".join(port.peer or ("", ""))}
    out = egress(port.settings, vlan)
    if out is None:
        cause = because(Layer.VLAN, Wrong.NOT_CARRIED, port.pointer, port=port.label, vlan=vlan)
    else:
        said = {"sent": _tagged(out), "wanted": _tagged(form)}
        cause = because(Layer.VLAN, Wrong.FORMS_DIFFER, port.pointer, values=values | said)
    return _either_end(fabric, port, cause)


def _stands_in(fabric: Fabric, attachment: Attachment) -> Spot | None:
    """Return the (box, VLAN) that frames of a host's attachment are put into."""
    if attachment.port is None or attachment.kind not in ("edge", "endpoint"):
        return None
    line = fabric.ports[attachment.box, attachment.port]
    near = line if attachment.kind == "edge" else fabric.ports.get(line.peer) if line.peer else None
    if near is None or not near.bridges or fabric.tables[near.box] is None:
        return None
    vlan, _ = fabric.classify((near.spot, attachment.form))
    return None if vlan is None else (near.box, vlan)


def lone_vlan(fabric: Fabric, box: str, vlan: int) -> Cause | None:
    """Return that a VLAN stands on one box that no uplink brings it to, and whose neighbours do not offer it: only a host's port carries it."""
    if fabric.devices[box].kind == "firewall" or (box, vlan) in fabric.at_vlan:
        return None
    members = [p for p, _ in fabric.members.get((box, vlan), [])]
    ups = [
        fabric.ports[p.peer]
        for p in fabric.ports.values()
        if p.box == box and p.peer and fabric.devices[p.peer[0]].kind != "endpoint"
    ]
    if not members or not ups or any(p.peer and fabric.devices[p.peer[0]].kind != "endpoint" for p in members):
        return None
    if any(not u.up or vlan in _offers(u) for u in ups):
        return None
    if any(u.mode in ("inline", "off") or fabric.tables[u.box] is None for u in ups) or not _elsewhere(
        fabric, box, vlan
    ):
        return None
    guilty = [x for p in members for x in link_items(fabric, p)]
    values: Values = {"vlan": vlan, "box": box, "ports": ", ".join(p.label for p in members)}
    return because(Layer.VLAN, Wrong.LONE_VLAN, *guilty, values=values)


def _offers(port: LinkPort) -> set[int]:
    """Return the tags a port sends or takes on its wire."""
    forms = {egress(port.settings, v) or v for v in member_vlans(port.settings)}
    return forms | {s.tag for s in port.settings.subinterfaces}


def _elsewhere(fabric: Fabric, box: str, vlan: int) -> bool:
    """Tell whether another box has the VLAN as well."""
    return any(v == vlan and b != box for b, v in fabric.members)


def own_line(fabric: Fabric, attachment: Attachment) -> Cause | None:
    """Return what takes down the line of an attachment that stands on a port of its own."""
    if attachment.port is None or attachment.kind == "edge":
        return None
    return fabric.ports[attachment.box, attachment.port].cause


def link_items(fabric: Fabric, port: LinkPort) -> tuple[str, ...]:
    """Return the items of a link: a port or bundle with its members, the same at the far end, and the cables between."""
    far = fabric.ports.get(port.peer) if port.peer else None
    ends = [port, *([far] if far is not None else [])]
    members = (m.pointer for end in ends for m in end.members)
    return tuple(dict.fromkeys((*(e.pointer for e in ends), *members, *(m.cable for m in port.members if m.cable))))


def _no_way(fabric: Fabric, start: Attachment, goal: Attachment) -> Cause:
    """No cables lead there: name what is free on both sides and was meant to lead somewhere."""
    astray = _crossed(fabric) or _stays_at_home(fabric, start, goal)
    if astray is not None:
        return astray
    here, there = _cabled(fabric, start.box), _cabled(fabric, goal.box)
    form = start.form or goal.form
    loose = [
        p
        for p in fabric.ports.values()
        if p.forwarding and p.settings.enabled and p.box in here | there and _leads_nowhere(p)
    ]
    wanted = [p for p in loose if form in (*member_vlans(p.settings), *(s.tag for s in p.settings.subinterfaces))]
    found = wanted or loose
    guilty = (*(p.pointer for p in found), *(m.pointer for p in found for m in p.members))
    if here is there or goal.box in here:
        guilty = ()
    return because(Layer.LINK, Wrong.NO_WAY, *(guilty or (start.pointer,)), start=start.label, goal=goal.label)


def _stays_at_home(fabric: Fabric, start: Attachment, goal: Attachment) -> Cause | None:
    """Return that a VLAN leaves one box by the overlay and is not stretched on the other."""
    known = {s.device: s for s in sides(fabric.design)}
    spots = [_stands_in(fabric, t) or (t.box, t.form) for t in (start, goal)]
    for (one, vlan), (two, _) in (spots, spots[::-1]):
        mine, theirs = known.get(one), known.get(two)
        if mine is None or not any(h.vlan == vlan for h, _, _ in stretched(mine)):
            continue
        if theirs is None or not any(h.vlan == vlan for h, _, _ in stretched(theirs)):
            own = [at for _, at in theirs.mac_vrfs] if theirs is not None else []
            device = fabric.devices[two].name
            return because(Layer.VLAN, Wrong.NOT_STRETCHED, *own, fabric.item_of(device), vlan=vlan, device=device)
    return None


def _crossed(fabric: Fabric) -> Cause | None:
    """Return that members of a bundle lead to different bundles."""
    owner = {m.spot: p for p in fabric.ports.values() for m in p.members}
    for port in fabric.ports.values():
        ends = [(m, owner[m.far]) for m in port.members if m.far in owner]
        peers = list(dict.fromkeys(p.spot for _, p in ends))
        if isinstance(port.settings, Lag) and len(peers) > 1:
            guilty = [x for m, p in ends for x in (m.pointer, p.pointer, m.cable or "")]
            member, other = next((m, p) for m, p in ends if p.spot != peers[0])
            values: Values = {"member": ":".join(member.spot), "port": port.label, "far": other.label}
            return because(
                Layer.LINK, Wrong.BUNDLE_ASTRAY, *guilty, port.pointer, values=values | {"peer": ":".join(peers[0])}
            )
    return None


def _leads_nowhere(port: LinkPort) -> bool:
    """Tell whether a port without a cable was meant to lead to another box, not to wait for a host."""
    settings = port.settings
    if port.peer is not None or port.mode in ("heartbeat", "off"):
        return False
    trunk = bool(settings.tagged) or isinstance(settings, Lag) or port.mode in ("routed", "inline")
    return trunk or (len(settings.untagged) == 1 and settings.note is None)


def _cabled(fabric: Fabric, box: str) -> set[str]:
    """Return the boxes that cables join to a box, whatever their state."""
    seen, todo = {box}, [box]
    while todo:
        here = todo.pop()
        for port in fabric.ports.values():
            if port.box == here and port.peer and port.peer[0] not in seen:
                seen.add(port.peer[0])
                todo.append(port.peer[0])
    return seen


def _starts(fabric: Fabric, start: Attachment) -> Iterator[tuple[Spot, LinkPort | None, Break | None]]:
    if start.port is None:
        yield (start.box, start.form), None, None
        return
    port = fabric.ports[start.box, start.port]
    target = port if start.kind == "edge" else fabric.ports[port.peer] if port.peer else None
    held: Break | None = None
    if target is not None:
        target, held = _past_inline(fabric, target, start.form)
    if target is None or not bridges_frames(target):
        return
    down = Break(target.cause) if target.cause is not None and start.kind != "edge" else None
    meant = [start.form] if start.form else meant_by_hosts(target)
    for vlan in meant or [0]:
        for there, entered, obstacle in _enter(fabric, target, start.form, vlan):
            own = obstacle
            if obstacle is not None and start.kind == "interface":
                guilty = tuple(dict.fromkeys((*obstacle.cause.guilty, start.pointer)))
                own = replace(obstacle, cause=replace(obstacle.cause, guilty=guilty))
            yield there, entered, held or down or own


def meant_by_hosts(port: LinkPort) -> list[int]:
    """Return the VLANs that untagged frames may be meant for at a port, the likeliest first."""
    settings = port.settings
    own = [settings.pvid] if settings.pvid is not None else []
    return list(dict.fromkeys((*settings.untagged, *own))) or list(settings.tagged)


def _past_inline(fabric: Fabric, port: LinkPort, form: int) -> tuple[LinkPort | None, Break | None]:
    """Follow inline pairs from the port a frame enters to the first port that is none; return it, and what stops the frame before."""
    obstacle: Break | None = None
    for _ in range(len(fabric.inline_pairs) + 2):
        if port.spot not in fabric.inline_pairs:
            lone = lone_inline(fabric, port)
            if lone is None:
                return port, obstacle
            other, cause = lone
        else:
            other, wire, at = fabric.inline_pairs[port.spot]
            cause = None
            if not wire_carries(wire, form):
                cause = because(Layer.VLAN, Wrong.INLINE_TAGS, f"{at}/tags", at, pair=wire.name, frame=frames(form))
        cause = cause or port.cause or other.cause
        obstacle = obstacle or (Break(cause) if cause is not None else None)
        if other.peer is None:
            return None, obstacle
        port = fabric.ports[other.peer]
    return None, obstacle


def lone_inline(fabric: Fabric, port: LinkPort) -> tuple[LinkPort, Cause] | None:
    """An inline port that no pair holds, or one that was given no mode: the other such port of its box is where frames were meant to leave."""
    held = {end for wire in getattr(fabric.devices[port.box], "wires", []) for end in wire.ends}
    if port.mode == "inline" and port.settings.name in held:
        wire = next(w for w in fabric.devices[port.box].wires if port.settings.name in w.ends)  # type: ignore[union-attr]
        mate = fabric.ports.get((port.box, next(e for e in wire.ends if e != port.settings.name)))
        if mate is not None and mate.cause is not None:
            return mate, mate.cause
    if port.mode == "inline":
        mates = [
            p for p in fabric.ports.values() if p.box == port.box and p is not port and p.mode in ("inline", "off")
        ]
        other = next((p for p in mates if p.spot not in fabric.inline_pairs and p.peer), None)
        cause = other.cause if other is not None and other.mode == "off" else None
        values: Values = {"port": port.label, "device": port.device}
        at = fabric.item_of(port.device)
        cause = cause or because(Layer.LINK, Wrong.INLINE_ALONE, port.pointer, f"{at}/wires", values=values)
        return (other, cause) if other is not None else None
    if port.mode == "off" and port.settings.name in held and port.cause is not None:
        wire = next(w for w in fabric.devices[port.box].wires if port.settings.name in w.ends)  # type: ignore[union-attr]
        far = next(e for e in wire.ends if e != port.settings.name)
        return fabric.ports[port.box, far], port.cause
    return None


def _enter(fabric: Fabric, port: LinkPort, form: int, meant: int) -> Iterator[tuple[Spot, LinkPort, Break | None]]:
    """Yield where a frame lands that enters a bridged port: where it is put, and where it was meant to go."""
    if fabric.tables[port.box] is None:
        yield (port.box, form), port, None
        return
    vlan, wrong = ingress(port.settings, form, fabric.tables[port.box])
    if vlan is not None:
        yield (port.box, vlan), port, None
    if vlan is None and wrong is not None and port.kind == "firewall":
        for inside in sorted(member_vlans(port.settings) - {meant}):  # where a translation of the tag would have put it
            yield (
                (port.box, inside),
                port,
                Break(_either_end(fabric, port, fabric.dropped(port, form, wrong)), port, inside),
            )
    if vlan != meant and meant:
        if fabric.lacks(port.box, meant):
            cause = fabric.not_in_table(port, meant)
        elif wrong is not None:
            cause = _either_end(fabric, port, fabric.dropped(port, form, wrong))
        else:
            values: Values = {"port": port.label, "frame": frames(form), "vlan": vlan or 0, "meant": meant}
            cause = _either_end(fabric, port, because(Layer.VLAN, Wrong.OTHER_VLAN, port.pointer, values=values))
        yield (port.box, meant), port, Break(cause, port, meant)


def _either_end(fabric: Fabric, port: LinkPort, cause: Cause) -> Cause:
    """Add the rest of the link to what is to blame: where the ends of a cable disagree, either is."""
    return replace(cause, guilty=tuple(dict.fromkeys((*cause.guilty, *link_items(fabric, port)))))


def _arrival(fabric: Fabric, spot: Spot, came: LinkPort | None, goal: Attachment) -> tuple[bool, Break | None]:
    """Tell whether the goal stands inside this (box, VLAN), and what keeps the frame from it at the last."""
    box, vlan = spot
    if goal.box != box:
        return False, None
    if goal.port is None:
        return goal.form == vlan, None
    port = fabric.ports[box, goal.port]
    if goal.kind != "edge" or not is_edge(port, fabric) or came is port:
        return False, None
    if came and kept_apart(came, port):
        return True, _apart(came, port)
    if egress(port.settings, vlan) == goal.form:
        return True, None
    if vlan in member_vlans(port.settings) or goal.form not in edge_forms(port.settings):
        return False, None
    return False, None


def _apart(one: LinkPort, two: LinkPort) -> Break:
    guilty = (two.pointer, one.pointer, f"{two.pointer}/isolated", f"{one.pointer}/isolated")
    return Break(because(Layer.ISOLATION, Wrong.KEPT_APART, *guilty, one=one.label, two=two.label, box=one.box))


def _steps(
    fabric: Fabric, spot: Spot, came: LinkPort | None, goal: Attachment
) -> Iterator[tuple[Spot | None, LinkPort, Break | None, int]]:
    """Yield (where to, port entered, first obstacle, number of obstacles); where = None is the goal itself."""
    box, vlan = spot
    for port in (p for p in fabric.ports.values() if p.box == box and bridges_frames(p) and p is not came and p.peer):
        far = fabric.ports[port.peer]  # type: ignore[index]
        form = vlan if fabric.tables[box] is None else egress(port.settings, vlan)
        obstacle: Break | None = None
        if port.cause is not None or (far.cause is not None and far.spot not in fabric.inline_pairs):
            obstacle = Break(port.cause or far.cause)  # type: ignore[arg-type]
        elif form is None:
            obstacle = _not_carried(fabric, port, vlan)
        elif came and kept_apart(came, port):
            obstacle = _apart(came, port)
        elif {port.spot, far.spot} & set(fabric.tree.blocked):
            held_back = port.spot if port.spot in fabric.tree.blocked else far.spot
            obstacle = Break(fabric.tree.blocked[held_back])
        sent = vlan if form is None else form
        end, held = _past_inline(fabric, far, sent)
        obstacle = obstacle or held
        if end is None:
            continue
        if not bridges_frames(end):
            for handed in _hand_over(fabric, end, sent, vlan, obstacle, goal, port):
                yield *handed, (obstacle is not None) + (sent != goal.form)
            continue
        for there, entered, second in _enter(fabric, end, sent, vlan):
            yield there, entered, obstacle or second, (obstacle is not None) + (second is not None)


def _not_carried(fabric: Fabric, port: LinkPort, vlan: int) -> Break:
    if fabric.lacks(port.box, vlan):
        return Break(fabric.not_in_table(port, vlan))
    if isinstance(port.settings, OverlayPort) and port.peer is not None:
        return Break(_not_stretched(fabric, port.device, fabric.ports[port.peer].device, vlan))
    cause = because(Layer.VLAN, Wrong.NOT_CARRIED, port.pointer, port=port.label, vlan=vlan)
    return Break(_either_end(fabric, port, cause), port, vlan)


def _not_stretched(fabric: Fabric, device: str, far: str, vlan: int) -> Cause:
    """Return why a box does not send a VLAN to another on the overlay: it is not stretched, or by another VNI, or nobody told it to."""
    known = {s.device: s for s in sides(fabric.design)}
    mine = next((x for x in stretched(known[device]) if x[0].vlan == vlan), None)
    if mine is None:
        at = (at for _, at in known[device].mac_vrfs)
        return because(Layer.VLAN, Wrong.NOT_STRETCHED, *at, vlan=vlan, device=device)
    held, mac, at_mine = mine
    theirs = next((x for x in stretched(known[far]) if x[0].vni == held.vni), None)
    other = next((x for x in stretched(known[far]) if x[0].vlan == vlan), None)
    said: Values = {"device": device, "far": far, "vlan": vlan}
    if theirs is None and other is not None:
        numbers: Values = {"mine": held.vni, "theirs": other[0].vni}
        guilty = f"{at_mine}/vni", f"{other[2]}/vni", at_mine, other[2]
        return because(Layer.VLAN, Wrong.VNIS_DIFFER, *guilty, values=said | numbers)
    if theirs is None:
        return because(Layer.VLAN, Wrong.NOT_STRETCHED, *(at for _, at in known[far].mac_vrfs), vlan=vlan, device=far)
    one = next(at for m, at in known[device].mac_vrfs if m is mac)
    two = next(at for m, at in known[far].mac_vrfs if m is theirs[1])
    names: Values = {"one": mac.name, "two": theirs[1].name}
    guilty = f"{one}/import", f"{two}/export", one, two
    return because(Layer.VLAN, Wrong.TARGETS_APART, *guilty, values=said | names)


def _hand_over(
    fabric: Fabric, far: LinkPort, sent: int, vlan: int, obstacle: Break | None, goal: Attachment, port: LinkPort
) -> Iterator[tuple[Spot | None, LinkPort, Break | None]]:
    if goal.port is None or far.spot != (goal.box, goal.port):
        return
    wrong = None
    if sent != goal.form:
        values: Values = {"port": port.label, "vlan": vlan, "goal": goal.label}
        said = {"sent": _tagged(sent), "wanted": _tagged(goal.form)}
        cause = because(Layer.VLAN, Wrong.FORMS_DIFFER, port.pointer, goal.pointer, values=values | said)
        wrong = Break(_either_end(fabric, port, cause))
    yield None, far, obstacle or wrong


def _tagged(form: int) -> str:
    return "without a tag" if form == UNTAGGED else f"with tag {form}"
