"""`anabasis faults`."""

from typing import Annotated

import typer

from anabasis.cli.output import AsJson, DesignFile, print_json, print_table
from anabasis.design import load_file
from anabasis.faults import KINDS, OPENING, faults_of

NAME = "faults"


def command(
    design_file: DesignFile,
    kind: Annotated[str | None, typer.Option("--kind", help="Only faults of this kind.")] = None,
    opening: Annotated[
        bool, typer.Option("--opening", help="Also the mistakes that open: nothing stops working, so nobody is told.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """List the single faults that a design can have: what engineers get wrong, one thing at a time, each as the edit that makes it."""
    found = list(faults_of(load_file(design_file).raw, kind, opening))
    if as_json:
        print_json([{"kind": f.kind, "pointers": list(f.guilty), "edit": f.edit} for f in found])
        return
    every = KINDS | OPENING
    shown = [(f.kind, every[f.kind].layer, every[f.kind].meaning, " ".join(f.guilty[:3])) for f in found]
    print_table(("kind", "layer", "what it is", "where"), shown, "This design can have no such fault.")
