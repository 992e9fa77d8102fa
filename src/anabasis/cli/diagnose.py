"""`anabasis diagnose`: the mistakes that explain what was seen."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.cli.tests import Workers
from anabasis.design import load_file
from anabasis.design.files import read_file_text
from anabasis.diagnosis import Answered, diagnose, diagnosis_rows
from anabasis.testing import ask, read_results, scene_of, signatures

NAME = "diagnose"


def command(
    design_file: DesignFile,
    seen: Annotated[
        Path, typer.Option("--seen", help="Results: CSV as `tests --csv` writes it, with the column `seen` filled in.")
    ],
    workers: Workers = 2,
    as_json: AsJson = False,
) -> None:
    """Print the single faults, then pairs, that explain all that was seen; exit status 1 where nothing explains all of it."""
    scene = scene_of(load_file(design_file).raw)
    pool = signatures(scene, ask(scene), workers)
    results, stale = read_results(read_file_text(seen), pool)
    found = diagnose(pool, [Answered(r.test.id, r.seen) for r in results], scene)
    rows = diagnosis_rows(found)
    if as_json:
        print_json(rows)
    else:
        shown = [
            (f"{r['explains']} of {r['of']}", r["said"], "\n".join(r["places"][:4]), r["next_test"] or "") for r in rows
        ]
        print_table(("explains", "what it is", "where", "next test"), shown, "Nothing was seen yet.")
        if not found.complete:
            print("Nothing explains all of it; this comes nearest.")
        if stale:
            print(f"Lines {', '.join(stale)} belong to no test of this design.")
    raise typer.Exit(OK if found.complete else STOPPED)
