"""`anabasis siblings`."""

from dataclasses import asdict
from typing import Annotated

import typer

from anabasis.cli.output import AsJson, DesignFile, print_json, print_table
from anabasis.design import load_file
from anabasis.design import siblings as side_by_side

NAME = "siblings"


def command(
    design_file: DesignFile,
    one: Annotated[str, typer.Argument(metavar="POINTER", help="A thing, as /devices/1/ports/4.")],
    two: Annotated[str, typer.Argument(metavar="POINTER", help="Another of its kind.")],
    as_json: AsJson = False,
) -> None:
    """Hold two things of one kind side by side: ports, VLANs, units, VRFs that were probably meant to be alike."""
    found = asdict(side_by_side(load_file(design_file).raw, one, two))
    if as_json:
        print_json(found)
        return
    rows = [(u["what"], u["one"], u["two"], "" if u["meant"] else "own") for u in found["unlike"]]
    print_table(("", found["one"], found["two"], "meant to differ"), rows, "They differ in nothing.")
