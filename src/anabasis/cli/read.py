"""`anabasis read`: a plain table becomes an edit of a design."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, print_json, print_table
from anabasis.design import apply, load_file
from anabasis.design.files import dump_json, dump_yaml
from anabasis.interchange import read
from anabasis.wording import taken_for_granted

NAME = "read"
EMPTY: dict[str, Any] = {"anabasis": 1, "name": "Read from tables", "devices": []}
Files = Annotated[
    list[Path],
    typer.Argument(
        metavar="FILE...",
        help="Tables: CSV, or cells between tabs or semicolons; or data of YANG modules, JSON or XML.",
    ),
]
Kind = Annotated[
    str,
    typer.Argument(
        metavar="KIND", help="vlans, ports, cables ..., topology (RFC 8345), yang (RFC 7951); any = what fits best."
    ),
]
Into = Annotated[Path | None, typer.Option("--into", metavar="DESIGN_FILE", help="Left out = an empty design.")]
Save = Annotated[
    Path | None, typer.Option("--save", metavar="FILE", help="Write the design that comes out, as YAML or JSON.")
]
Replace = Annotated[
    bool, typer.Option("--replace", help="What no row speaks of goes, in the lists that rows are about.")
]


def command(
    kind: Kind, files: Files, into: Into = None, save: Save = None, replace: Replace = False, as_json: AsJson = False
) -> None:
    """Read tables into a design, one after the other; exit status 1 where rows have no place. Nothing is written without --save."""
    loaded = load_file(into) if into is not None else None
    tree = loaded.raw if loaded is not None else EMPTY
    told: list[dict[str, Any]] = []
    for file in files:
        text = file.read_text(encoding="utf-8-sig")
        found = read("" if kind == "any" else kind, text, tree, replace)
        tree, _ = apply(tree, found.patch)
        lost = [{"line": u.line, "row": u.text, "reason": u.problem.sentence()} for u in found.unplaced]
        assumed = [taken_for_granted(a) for a in found.assumed]
        told.append(
            {
                "file": file.name,
                "kind": found.kind,
                "placed": found.placed,
                "kept": found.kept,
                "lost": lost,
                "assumed": assumed,
                "patch": found.patch,
            }
        )
    if save is not None:
        save.write_text(dump_json(tree) if save.suffix == ".json" else dump_yaml(tree), encoding="utf-8")
    if as_json:
        print_json(told)
    else:
        rows = [(t["file"], t["kind"], t["placed"], len(t["lost"]), len(t["patch"]), t["kept"]) for t in told]
        print_table(
            ("file", "kind", "rows placed", "rows lost", "changes", "kept besides"), rows, "There is nothing to read."
        )
        print_table(("assumed",), [(a,) for t in told for a in t["assumed"]], "Nothing had to be assumed.")
        gone = [(t["file"], u["line"], u["row"], u["reason"]) for t in told for u in t["lost"]]
        print_table(("file", "line", "row", "why it has no place"), gone, "Every row has its place.")
    raise typer.Exit(STOPPED if any(t["lost"] for t in told) else OK)
