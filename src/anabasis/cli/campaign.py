"""`anabasis campaign`: what many failures and many mistakes would do."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from anabasis.campaign import Progress, Row, Rows, cases_of, check_sizes, digest_of, mistakes_of, run
from anabasis.cli.output import OK, STOPPED, AsJson, print_json, print_table
from anabasis.design import load_file
from anabasis.errors import InputRefused, Problem
from anabasis.wording import mistake_said

NAME = "campaign"


def command(
    files: Annotated[list[Path], typer.Argument(help="Designs, one file each.", show_default=False)],
    failures: Annotated[int, typer.Option("--failures", help="How many parts fail at once, at most: 0 to 3.")] = 1,
    faults: Annotated[int, typer.Option("--faults", help="How many mistakes are made at once, at most: 0 to 2.")] = 1,
    together: Annotated[bool, typer.Option("--together", help="Each failure with each mistake, besides.")] = False,
    sample: Annotated[int, typer.Option("--sample", min=1, help="Of three at once, so many are drawn.")] = 1_000,
    seed: Annotated[int, typer.Option("--seed", help="What is drawn: the same for the same number.")] = 0,
    workers: Annotated[int, typer.Option("--workers", min=1, max=256, help="Processes on this machine.")] = 1,
    scheduler: Annotated[str | None, typer.Option("--scheduler", help="A Dask scheduler, as tcp://host:8786.")] = None,
    out: Annotated[
        Path | None, typer.Option("--out", help="Rows as CSV or JSON lines; one that is there already goes on.")
    ] = None,
    worst: Annotated[int, typer.Option("--worst", min=0, help="How many of the worst are printed.")] = 20,
    as_json: AsJson = False,
) -> None:
    """Judge failures and mistakes by harm: expectations broken open or closed, reach lost for good and meanwhile. Exit status 1 where one breaks a closed expectation open."""
    check_sizes(failures, faults)
    designs = {}
    for file in files:
        name = file.stem if file.stem not in designs else str(file)
        designs[name] = load_file(file).raw
    if len(designs) != len(files):
        raise InputRefused([Problem("files", "a design is named twice", ", ".join(map(str, files)), "each once")])
    rows = Rows(out) if out is not None else None
    digests = {name: digest_of(tree) for name, tree in designs.items()}
    done = rows.done if rows is not None else set()
    cases = [
        c
        for name, tree in designs.items()
        for c in cases_of(name, tree, failures, faults, together, sample, seed)
        if (c.key, digests[name]) not in done
    ]
    found: list[Row] = [r for r in (rows.held if rows is not None else []) if digests.get(r.design) == r.digest]
    try:
        row: Row
        for row in run(designs, cases, scheduler, workers, told_on_a_line if sys.stderr.isatty() else lambda _: True):
            found.append(row)
            if rows is not None:
                rows.add(row)
    finally:
        if rows is not None:
            rows.close()
    found.sort(key=lambda r: (tuple(-n for n in r.harm), len(r.failed) + len(r.faults), r.key))
    if as_json:
        print_json([r.as_dict() for r in found])
    else:
        shown = [r for r in found[:worst] if any(r.harm)]
        known = {name: mistakes_of(designs[name]) for name in {r.design for r in shown if r.faults}}

        def told(row: Row) -> list[str]:
            made = [(f, known[row.design][f]) for f in row.faults]
            return [f"{mistake_said(m.meaning, m.place, m.value)} [{f}]" for f, m in made]

        print_table(
            ("design", "fails", "mistake", "broken open", "broken closed", "lost", "meanwhile"),
            [
                (
                    r.design,
                    "\n".join(r.failed),
                    "\n".join(told(r)),
                    "\n".join(r.opened),
                    "\n".join(r.closed),
                    r.lost or "",
                    r.meanwhile or "",
                )
                for r in shown
            ],
            "Nothing of it does any harm.",
        )
        print(
            f"{len(found)} cases, {len(cases)} of them judged now; {sum(any(r.harm) for r in found)} do harm, {sum(bool(r.opened) for r in found)} break something open."
        )
    raise typer.Exit(STOPPED if any(r.opened for r in found) else OK)


def told_on_a_line(progress: Progress) -> bool:
    """Say how far it is, over what was said before."""
    left = f", about {progress.left_s:.0f} s to go" if progress.left_s is not None else ""
    print(f"\r{progress.done} of {progress.total}{left}   ", end="", file=sys.stderr, flush=True)
    return True
