"""`anabasis defence`: how many parts must fail, or mistakes be made, before what must stay closed is open."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from anabasis.campaign import Defence, mistakes_of
from anabasis.cli.campaign import told_on_a_line
from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.design import load_file
from anabasis.wording import case_said, depth_said, mistake_said

NAME = "defence"


def command(
    design_file: DesignFile,
    ones: Annotated[bool, typer.Option("--ones", help="Single failures and mistakes only; pairs take long.")] = False,
    workers: Annotated[int, typer.Option("--workers", min=1, max=256, help="Processes on this machine.")] = 1,
    scheduler: Annotated[str | None, typer.Option("--scheduler", help="A Dask scheduler, as tcp://host:8786.")] = None,
    as_json: AsJson = False,
) -> None:
    """Tell how deep each closed expectation is defended: exact to two, else at least three. Exit status 1 where one thing, or none, opens any."""
    tree = load_file(design_file).raw
    search = Defence(design_file.stem, tree)
    for _ in search.run(scheduler, workers, told_on_a_line if sys.stderr.isatty() else lambda _: True, pairs=not ones):
        pass
    found = search.depths
    if as_json:
        print_json([d.as_dict() for d in found])
    else:
        known = mistakes_of(tree)

        def told(fault: str) -> str:
            made = known[fault]
            return f"{mistake_said(made.meaning, made.place, made.value)} [{fault}]"

        print_table(
            ("expectation", "depth", "opened by"),
            [
                (
                    d.expectation,
                    depth_said(d.depth, d.exact),
                    "\n".join(case_said(w.failed, list(map(told, w.faults))) for w in d.ways),
                )
                for d in found
            ],
            "No expectation says that anything stays closed.",
        )
        print(f"{search.done} of {search.total} cases tried.")
    raise typer.Exit(STOPPED if any(d.exact and d.depth < 2 for d in found) else OK)
