"""The chooser of tables, and how all of them are read: headings, rows one by one, and what the document refuses taken out again, row by row."""

from __future__ import annotations

import copy
from collections.abc import Iterator, Sequence
from typing import Protocol

from anabasis.design import Patch, Tree, parse_design
from anabasis.design.document import Expectation
from anabasis.design.edits import difference
from anabasis.design.pointers import in_list, lies_in, value_at
from anabasis.design.ports import Lag
from anabasis.design.routes import Dhcp, Route
from anabasis.design.rules import Nat, Rule
from anabasis.design.vlans import AddressSet, ServiceSet, Vlan
from anabasis.design.zones import Answers, Zone
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import Assumed, Assumption
from anabasis.interchange.cables import Cables
from anabasis.interchange.cells import Line, lines_of, numbered, written
from anabasis.interchange.endpoints import Endpoints
from anabasis.interchange.headings import columns_of
from anabasis.interchange.interfaces import Interfaces
from anabasis.interchange.ports import Ports
from anabasis.interchange.proposal import Proposal, Unplaced
from anabasis.interchange.reservations import Reservations
from anabasis.interchange.things import Row, Things, Work

ROUTING, WALL = ("switch", "router", "firewall"), ("firewall",)


class Table(Protocol):
    """What every kind of table can do."""

    @property
    def name(self) -> str:
        """Return what it is called."""

    @property
    def columns(self) -> tuple[str, ...]:
        """Return the columns that it reads, in their order."""

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield what a document holds."""

    def place(self, work: Work, row: Row) -> list[str]:
        """Put one row into a document; return the pointers of what it is about. Raises InputRefused and changes nothing then."""


TABLES: dict[str, Table] = {
    t.name: t
    for t in (
        Things("vlans", Vlan, "vlans", ("id", "name", "subnets", "purpose", "note"), ("id",)),
        Ports(),
        Cables(),
        Interfaces(),
        Things("routes", Route, "routes", ("device", "vrf", "to", "via", "interface", "metric"), ("to", "via", "interface"), (*ROUTING, "outside")),
        Things("rules", Rule, "rules", ("device", "name", "from", "to", "sources", "destinations", "services", "action", "enabled", "note"), ("name",), WALL),
        Things("leases", Dhcp, "dhcp", ("device", "interface", "ranges", "gateway", "dns", "lease_s"), ("interface",), ROUTING),
        Reservations(),
        Endpoints(),
        Things("expectations", Expectation, "expectations", ("name", "from", "to", "services", "expect", "through"), ("name",)),
        Things("sets", AddressSet, "addresses", ("name", "members", "note"), ("name",)),
        Things("service-sets", ServiceSet, "services", ("name", "members", "note"), ("name",)),
        Things("zones", Zone, "zones", ("device", "name", "kind", "filter_inside", "note"), ("name",), WALL),
        Things("translations", Nat, "nat", ("device", "name", "from", "to", "sources", "destinations", "services", "source_to", "destination_to", "service_to", "one_to_one", "enabled", "note"), ("name",), ROUTING),
        Things("answers", Answers, "answers", ("device", "name", "services", "sources", "note"), ("name",), ROUTING),
        Things("lags", Lag, "lags", ("device", "name", "protocol", "mode", "pvid", "untagged", "tagged", "min_links", "note"), ("name",), ROUTING),
    )
}  # fmt: skip
"""The kinds of tables, by name."""
ROUNDS = 12
"""How often rows are taken out that the document refuses before the whole table is."""


def kind_of(text: str) -> str | None:
    """Return the kind of table that the headings of a text fit best; None where none fits."""
    first = next(iter(lines_of(text)), None)
    if first is None:
        return None
    fits: list[tuple[float, str]] = []
    for name, table in TABLES.items():
        found = columns_of(first.cells, table.columns)
        if found is not None:
            good = [c for c in found[0] if c is not None]
            own = sum(c.strip().lower() in table.columns for c in first.cells)
            fits.append((len(good) + own / 2 - len(table.columns) / 100, name))
    return max(fits)[1] if fits else None


def write_table(kind: str, tree: Tree) -> str:
    """Return a table of a document as text. Raises InputRefused for a kind that is none."""
    table = _table(kind)
    return written(getattr(table, "written", table.columns), table.rows(tree))


def read_table(kind: str, text: str, tree: Tree, replace: bool = False) -> Proposal:
    """Return what reading a table into a document would do.

    A column that is not there leaves its settings as they are; a row that is not there removes nothing, unless `replace`. Rows that have no place are
    told with their line and why. Raises InputRefused for what is no table of the kind at all. Cost: rows, and the document checked a few times.
    """
    table, lines = _table(kind), lines_of(text)
    columns, headings, body, guessed = _headed(table, lines)
    lost: dict[int, Unplaced] = {}
    for _ in range(ROUNDS):
        before = -1
        while before != len(lost):  # a row that is refused half-way leaves nothing behind
            before = len(lost)
            work, about = _placed(table, tree, body, columns, lost)
        if replace:
            _dropped(work, about)
        try:
            parse_design(work.tree)
        except InputRefused as error:
            guilty = {
                line.number: p
                for p in error.problems
                for line, at in about
                if any(lies_in(p.pointer, place) for place in at)
            }
            if not guilty:
                raise
            told = {line.number: line for line, _ in about}
            lost |= {n: Unplaced(n, told[n].text, p) for n, p in guilty.items()}
            continue
        patch: Patch = difference(tree, work.tree)
        held = sum(1 for _ in table.rows(tree))
        spoken = len({at for _, ats in about for at in ats})
        unplaced = tuple(lost[n] for n in sorted(lost))
        assumed = tuple(dict.fromkeys((*guessed, *work.assumed)))
        kept = max(0, held - spoken) if not replace else 0
        return Proposal(kind, patch, len(about), unplaced, assumed, tuple(columns), headings, kept)
    raise InputRefused([u.problem for u in lost.values()])


def _table(kind: str) -> Table:
    if kind not in TABLES:
        raise InputRefused(
            [Problem("", "there is no table of this kind", repr(kind), ", ".join(TABLES), nearest(kind, list(TABLES)))]
        )
    return TABLES[kind]


def _headed(
    table: Table, lines: Sequence[Line]
) -> tuple[list[str | None], tuple[str, ...], Sequence[Line], list[Assumption]]:
    """Return the columns, the headings as given, the rows behind them, and what was guessed."""
    if not lines:
        raise InputRefused([Problem("", "the table is empty", allowed=", ".join(table.columns))])
    found = columns_of(lines[0].cells, table.columns)
    if found is not None:
        return found[0], lines[0].cells, lines[1:], found[1]
    wide = max(len(x.cells) for x in lines)
    columns: list[str | None] = [*getattr(table, "written", table.columns)][:wide]
    columns += [None] * (wide - len(columns))
    said = Assumption(Assumed.HEADINGS, ", ".join(c for c in columns if c))
    return columns, (), lines, [said]


def _placed(
    table: Table, tree: Tree, body: Sequence[Line], columns: Sequence[str | None], lost: dict[int, Unplaced]
) -> tuple[Work, list[tuple[Line, list[str]]]]:
    """Return the document with all rows in it but those that are lost, and what each row is about. Rows that have no place are added to `lost`."""
    work = Work(copy.deepcopy(tree))
    about: list[tuple[Line, list[str]]] = []
    for line, row in numbered(body, columns):
        if line.number in lost:
            continue
        try:
            about.append((line, table.place(work, row)))
        except InputRefused as error:
            lost[line.number] = Unplaced(line.number, line.text, error.problems[0])
    return work, about


def _dropped(work: Work, about: Sequence[tuple[Line, list[str]]]) -> None:
    """Take out what no row speaks of, in the lists that rows are about."""
    spoken: dict[str, set[int]] = {}
    for _, places in about:
        for home, k in map(in_list, places):
            spoken.setdefault(home, set()).add(k)
    for home, kept in spoken.items():
        held = value_at(work.tree, home)
        if isinstance(held, list):
            held[:] = [e for k, e in enumerate(held) if k in kept]
