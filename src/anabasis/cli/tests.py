"""`anabasis tests`: the test sheet of a design."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.design import load_file
from anabasis.design.files import read_file_text
from anabasis.testing import as_csv, read_results, sheet_for, sheet_row

NAME = "tests"
Seen = Annotated[
    Path | None, typer.Option("--seen", help="Results: CSV as `--csv` writes it, with the column `seen` filled in.")
]
Workers = Annotated[int, typer.Option("--workers", min=1, max=64, help="How many processes work out what faults show.")]


def command(
    design_file: DesignFile,
    seen: Seen = None,
    every: Annotated[
        bool, typer.Option("--all", help="All tests that could be made, not the few that show every fault.")
    ] = False,
    csv: Annotated[bool, typer.Option("--csv", help="As CSV, to print and to fill in.")] = False,
    workers: Workers = 2,
    as_json: AsJson = False,
) -> None:
    """Print few tests that show every single fault of the catalogue; exit status 1 where something was seen that is not as expected."""
    sheet = sheet_for(load_file(design_file).raw, workers)
    results, stale = read_results(read_file_text(seen), sheet.pool) if seen is not None else ([], [])
    typed = {r.test.id: r.text for r in results}
    made = [t for t in sheet.pool.tests if every or t in sheet.tests or t.id in typed]
    rows = [sheet_row(t, typed.get(t.id, "")) for t in (sorted(made, key=lambda t: int(t.id[1:])) if every else made)]
    differ = [r for r in results if r.seen != r.test.expect]
    if as_json:
        print_json(rows)
    elif csv:
        print(as_csv(rows), end="")
    else:
        print_table(
            ("", "stand at", "do", "see", "boxes show", "for", "seen"),
            [(r["id"], r["stand"], r["how"], r["to_see"], r["state"], r["why"], r["seen"]) for r in rows],
            "There is nothing to test.",
        )
        unseen = len(sheet.unseen)
        least = "no fewer do" if sheet.proved else f"{sheet.bound} at least are needed"
        print(
            f"{len(sheet.tests) - len(sheet.telling)} tests show all but {unseen} of {len(sheet.pool.faults)} single faults; {least}. {len(sheet.telling)} more tell them apart."
        )
        if sheet.untested:
            print(f"Nobody can stand in: {', '.join(sheet.untested)}.")
        if seen is not None:
            print(
                f"{len(results)} results, {len(differ)} not as expected"
                + (f"; lines {', '.join(stale)} belong to no test of this design" if stale else "")
                + "."
            )
    raise typer.Exit(STOPPED if differ else OK)
