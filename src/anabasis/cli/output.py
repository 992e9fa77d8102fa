"""How answers are written: a table for people, or one JSON document and nothing else."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated

import typer
from rich import box
from rich.console import Console
from rich.table import Table

from anabasis.climb import Climb
from anabasis.design import as_of, load_file
from anabasis.design.schedules import AsOf, parse_as_of
from anabasis.errors import InputRefused, Problem
from anabasis.fabric import conditions_of

OK, STOPPED, REFUSED = 0, 1, 2

DesignFile = Annotated[Path, typer.Argument(metavar="DESIGN_FILE", help="A design in YAML or JSON.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON document instead of a table.")]


Fail = Annotated[
    list[str] | None,
    typer.Option(
        "--fail", help="As if this had failed: a unit, a device, unit:port, or a cable a:1--b:2. May be repeated."
    ),
]


At = Annotated[
    str | None,
    typer.Option(
        "--at", help="As it is then: a local time such as 2026-12-01T20:00, or always; left out = at some time."
    ),
]


def climb_of(path: Path, fail: list[str] | None = None, at: str | None = None) -> Climb:
    """Read a design file. `fail`: what has failed in it; `at`: when. Raises InputRefused."""
    design = load_file(path).design
    design = design if at is None else as_of(design, asked_time(at))
    return Climb(design, conditions_of(design, fail)) if fail else Climb(design)


def print_json(value: object) -> None:
    """Print one JSON document on standard output."""
    print(json.dumps(value, ensure_ascii=False, indent=2))


def print_table(headings: Sequence[str], rows: Iterable[Sequence[object]], empty: str) -> None:
    """Print rows under headings, or say why there are none. Text that does not fit its column is folded, never cut."""
    console = Console(width=None if Console().is_terminal else 200)
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for heading in headings:
        table.add_column(heading, overflow="fold")
    for row in rows:
        table.add_row(*("" if v is None else str(v) for v in row))
    if table.row_count:
        console.print(table, markup=False)
    else:
        print(empty)


def asked_time(text: str) -> AsOf:
    """Read a time that a question is asked for. Raises InputRefused."""
    try:
        return parse_as_of(text)
    except ValueError as wrong:
        raise InputRefused([Problem("/at", "badly written", repr(text), f"always, or {wrong}")]) from None
