"""`anabasis compare`: what leads from one design file to another, as configuration and as reach."""

from __future__ import annotations

from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.climb import Climb
from anabasis.comparison import compare_states
from anabasis.design import load_file

NAME = "compare"
Markdown = Annotated[bool, typer.Option("--markdown", help="For a ticket.")]
SIGNS = {"added": "+", "removed": "−", "changed": "~", "renamed": "=", "moved": "↕"}


def command(
    design_file: DesignFile, other_file: DesignFile, as_markdown: Markdown = False, as_json: AsJson = False
) -> None:
    """Compare two designs; exit status 1 where the second breaks an expectation that held in the first."""
    one, two = load_file(design_file), load_file(other_file)
    found = compare_states((one.raw, Climb(one.design)), (two.raw, Climb(two.design)))
    if as_markdown:
        print(found.as_markdown(design_file.name, other_file.name), end="")
    elif as_json:
        print_json(found.as_dict())
    else:
        rows = [(SIGNS[d.sign], d.kind, d.title, "\n".join(d.words)) for d in found.differences]
        print_table(("", "kind", "thing", "what"), rows, "The two are written alike.")
        c = found.consequences
        flows = [
            (
                sign,
                f"{x.source} → {x.target}",
                "\n".join(f"{f['sources']} → {f['destinations']}: {f['services']}" for f in side),
            )
            for x in (*c.opened, *c.closed, *c.changed)
            for sign, side in (("opened", x.gained), ("closed", x.lost))
            if side
        ]
        print_table(("", "pair", "flows"), flows, "Both reach the same.")
        told = [("broken", n) for n in c.broken] + [("mended", n) for n in c.mended]
        print_table(("", "expectation"), told, "Expectations hold, or fail, as before.")
    raise typer.Exit(STOPPED if found.consequences.broken else OK)
