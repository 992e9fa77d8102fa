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
from anabasis.design import load_file
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


def climb_of(path: Path, fail: list[str] | None = None) -> Climb:
    """Read a design file. `fail`: what has failed in it. Raises InputRefused."""
    design = load_file(path).design
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
