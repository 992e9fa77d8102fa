"""The build sheet: numbered steps, each with what to look at afterwards, who loses reach meanwhile, and how to go back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import ceil

from anabasis.building.changes import changes_between
from anabasis.building.order import Batch, Order, Ordering, Placed, stages
from anabasis.climb import Climb
from anabasis.design import Design, Patch, Tree, difference, parse_design
from anabasis.design.devices import Switch
from anabasis.facts import ON_PAPER, BuildLine, ChangeSign, StateSeen, Subject, Wait, Waits, WayBack
from anabasis.patience import look
from anabasis.verdicts import lost_pairs

FIRST_S, LINE_S = 30, 10
"""How long a person takes at a box for a step, in seconds: for its first line, and for each line more."""
FORWARDING_S = 30
"""Listening and learning, 15 s each (IEEE 802.1D-2004 table 17-1)."""
BUNDLE_S, LEASE_S = 5, 10
MASTER_S = 4
"""Three advertisements of a second, and a little more (RFC 9568 section 6.1)."""
SAVED = ("switch", "router", "firewall")
Pair = tuple[str, str]


@dataclass(frozen=True)
class Outage:
    """One pair of segments that is cut off while the change goes on, and open before and after."""

    source: str
    target: str
    whole: bool
    """Nothing passes any more; else a part of what did."""
    first: int
    """The step that cuts it off."""
    last: int
    """The last step of which it is cut off still; the next one brings it back."""
    seconds: int


@dataclass(frozen=True)
class BuildStep:
    """One step at one box."""

    number: int
    device: str
    """Empty = on paper, or at every box that uses it."""
    subject: Subject
    sign: ChangeSign
    lines: tuple[BuildLine, ...]
    edit: Patch
    undo: Patch
    states: tuple[StateSeen, ...]
    wait: Wait | None
    lost: tuple[Pair, ...]
    """Ordered pairs of segments that lose reach by it for a while."""
    closed: tuple[Pair, ...]
    """Those that lose it for good, as the design wants."""
    regained: tuple[Pair, ...]
    opened: tuple[Pair, ...]
    """Those that have reach for a while which they have neither before nor after the change."""
    broken: tuple[str, ...]
    """Expectations that do not hold now, and do before and after."""
    console: bool
    """The operator does not reach the box as it is to be made: somebody stands there."""
    cuts: tuple[str, ...]
    """Boxes still to be changed that the operator reaches no longer."""
    back: WayBack | None
    work_s: int

    @property
    def wait_s(self) -> int:
        """Return how long waiting is normal after it, in seconds."""
        return self.wait.seconds if self.wait is not None else 0

    @property
    def takes_s(self) -> int:
        """Return how long it takes, waiting included."""
        return self.work_s + self.wait_s


@dataclass(frozen=True)
class BuildSheet:
    """The steps from one state to another, in order."""

    steps: tuple[BuildStep, ...]
    outages: tuple[Outage, ...]
    order: Order
    live: bool
    """Whether packets go through the site meanwhile: nobody loses reach of a site that is not there yet."""
    operator: bool
    """Whether anybody knows where the operator sits."""
    unreached: tuple[str, ...]
    """Boxes to be changed that the operator reaches neither before nor while."""

    @property
    def seconds(self) -> int:
        """Return how long all of it takes."""
        return sum(s.takes_s for s in self.steps)

    @property
    def outage_s(self) -> int:
        """Return the sum over pairs of how long each is cut off."""
        return sum(o.seconds for o in self.outages)

    @property
    def cut_s(self) -> int:
        """Return for how long anybody is cut off at all: what a maintenance window has to hold."""
        cut = {k for o in self.outages for k in range(o.first, o.last + 1)}
        return sum(s.takes_s for s in self.steps if s.number in cut)


def build_sheet(one: Tree, two: Tree, order: Order = "boxes") -> BuildSheet:
    """Return the steps from one document to another. Cost: a climb a step; none where the first has no box yet, and nobody can lose anything.

    Raises InputRefused where one of them is no design.
    """
    start, target = parse_design(one), parse_design(two)
    live = bool(start.devices)
    changes = changes_between(one, two)
    ordering = Ordering(one, start, changes, stages(one, two, changes, order), live)
    first = ordering.climb
    placed = list(ordering.placed())
    aim = Climb(target).managed.known if live and target.operator else False
    steps = [_step(k, p, target) for k, p in enumerate(placed, 1)]
    outages: tuple[Outage, ...] = ()
    if live:
        steps, outages = _measured(first, placed, steps)
    steps += list(_saved(two, steps))
    touched = {s.device for s in steps if s.device and s.subject != Subject.SAVE and s.subject not in ON_PAPER}
    ever = {d for p in placed for d in p.managed.reached} | set(ordering.managed.reached)
    operated = any(p.managed.known for p in placed) or aim
    boxes = {d.name for d in target.devices if d.kind in SAVED}
    unreached = tuple(sorted(d for d in touched & boxes if d not in ever)) if operated else ()
    return BuildSheet(tuple(steps), outages, order, live, operated, unreached)


def _step(number: int, placed: Placed, target: Design) -> BuildStep:
    batch = placed.batch
    lines = tuple(n for c in batch.changes for n in c.lines)
    paper = batch.subject in ON_PAPER
    console = not paper and placed.managed.known and not placed.stood
    own = batch.device in placed.cuts
    return BuildStep(
        number,
        batch.device,
        batch.subject,
        batch.sign,
        lines,
        difference(placed.before, placed.after),
        difference(placed.after, placed.before),
        tuple(_states(placed, lines)),
        _wait(placed, batch, lines),
        (),
        (),
        (),
        (),
        (),
        console,
        placed.cuts,
        (WayBack.TIMED if own else WayBack.CONSOLE) if placed.cuts else None,
        0 if paper else FIRST_S + LINE_S * (len(lines) - 1),
    )


def _states(placed: Placed, lines: tuple[BuildLine, ...]) -> Iterator[StateSeen]:
    """Yield what the box shows afterwards of the things that a step was about."""
    site, device = placed.climb.site, placed.batch.device
    units = next(
        (
            tuple(u.name for u in d.units)
            for d in placed.climb.design.devices
            if d.name == device and d.kind == "firewall"
        ),
        (),
    )
    for line in lines:
        if line.after is None or not isinstance(line.after, dict):
            continue
        name = _interface(line)
        held = site.net.by_name.get((device, name))
        if line.kind in ("ports", "lags"):
            for box in units or (device,):
                port = site.fabric.ports.get((box, name))
                if port is not None and port.members and (port.cause is None or port.peer is not None):
                    yield StateSeen("port", box, name, port.cause is None, port.cause)
        if held is not None and held.addresses:
            yield StateSeen("interface", device, name, held.up, held.cause)
        if line.kind == "routes":
            for table in site.net.tables.values():
                for route in table.routes:
                    if route.device == device and str(route.to) == line.after.get("to") and route.origin == "static":
                        yield StateSeen("route", device, f"{route.vrf} {route.to}", route.active, route.cause)


def _interface(line: BuildLine) -> str:
    if line.kind == "vlan_interfaces":
        return f"vlan{line.name}"
    return line.name.replace(" ", ".") if line.kind == "subinterfaces" else line.name


def _wait(placed: Placed, batch: Batch, lines: tuple[BuildLine, ...]) -> Wait | None:
    if batch.sign == "remove":
        return None
    box = next((d for d in placed.climb.design.devices if d.name == batch.device), None)
    match batch.subject:
        case Subject.CABLE | Subject.MEMBERSHIP if isinstance(box, Switch) and box.spanning_tree:
            return Wait(Waits.FORWARDING, FORWARDING_S)
        case Subject.BUNDLE:
            return Wait(Waits.BUNDLE, BUNDLE_S)
        case Subject.LEASE:
            return Wait(Waits.LEASE, LEASE_S)
        case Subject.VRF:
            held = [n.after["ospf"] for n in lines if isinstance(n.after, dict) and n.after.get("ospf")]
            dead = [i.get("dead_s", 40) for o in held for i in o.get("interfaces", [])]
            return Wait(Waits.NEIGHBOUR, max(dead)) if dead else None
        case Subject.INTERFACE if any(isinstance(n.after, dict) and n.after.get("vrrp") for n in lines):
            return Wait(Waits.ELECTION, MASTER_S)
        case Subject.PAIR:
            pair = getattr(box, "failover", None)
            return Wait(Waits.UNITS, ceil(pair.hello_ms * pair.misses / 1000)) if pair is not None else None
    return None


def _measured(first: Climb, placed: list[Placed], steps: list[BuildStep]) -> tuple[list[BuildStep], tuple[Outage, ...]]:
    """Return the steps with who loses reach by each, and for how long: against what is open at the start as well as at the end."""
    if not placed:
        return steps, ()
    last = placed[-1].climb
    good = {(a, b) for a, b, _ in lost_pairs(first.sweep, last.sweep)}
    gained = {(a, b) for a, b, _ in lost_pairs(last.sweep, first.sweep)}
    kept = {j.name for j in last.expectations if j.holds}
    kept -= {j.name for j in first.expectations if not j.holds}
    out: list[BuildStep] = []
    cut: dict[Pair, tuple[int, bool]] = {}
    outages: list[Outage] = []
    closed: set[Pair] = set()
    before = first
    for step, one in zip(steps, placed, strict=True):
        look()
        if one.batch.subject in ON_PAPER and before is not first and one.batch.subject != Subject.SETS:
            out.append(step)
            continue
        sweep = one.climb.sweep
        lost = {(a, b): whole for a, b, whole in lost_pairs(first.sweep, sweep)}
        more = {(a, b) for a, b, _ in lost_pairs(sweep, last.sweep)} - good - gained
        new = [p for p in lost if p not in good and p not in cut]
        back = [p for p in cut if p not in lost]
        for p in back:
            began, whole = cut.pop(p)
            outages.append(_outage(p, whole, began, step.number - 1, steps))
        cut |= {p: (step.number, lost[p]) for p in new}
        shut = [p for p in lost if p in good and p not in closed]
        closed |= set(shut)
        broken = tuple(j.name for j in one.climb.expectations if not j.holds and j.name in kept)
        out.append(
            replace(
                step,
                lost=tuple(new),
                regained=tuple(back),
                closed=tuple(shut),
                opened=tuple(sorted(more)),
                broken=broken,
            )
        )
        before = one.climb
    outages += [_outage(p, whole, began, len(steps), steps) for p, (began, whole) in cut.items()]
    return out, tuple(sorted(outages, key=lambda o: (o.first, o.source, o.target)))


def _outage(pair: Pair, whole: bool, first: int, last: int, steps: list[BuildStep]) -> Outage:
    return Outage(*pair, whole, first, last, sum(s.takes_s for s in steps if first <= s.number <= last))


def _saved(two: Tree, steps: list[BuildStep]) -> Iterator[BuildStep]:
    """Yield, for each box that was changed, that what it has is saved over a restart; where the document says so itself it has a step already."""
    done = {s.device for s in steps if s.subject == Subject.SAVE}
    changed = list(dict.fromkeys(s.device for s in steps if s.device and s.subject not in (*ON_PAPER, Subject.CABLE)))
    kinds = {d["name"]: d["kind"] for d in two.get("devices", [])}
    names = [n for n in changed if kinds.get(n) in SAVED and n not in done]
    for number, name in enumerate(names, len(steps) + 1):
        line = BuildLine("change", "running", name, None, "saved")
        yield BuildStep(
            number,
            name,
            Subject.SAVE,
            "change",
            (line,),
            [],
            [],
            (),
            None,
            (),
            (),
            (),
            (),
            (),
            False,
            (),
            None,
            FIRST_S,
        )
