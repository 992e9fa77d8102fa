"""`anabasis expect`: what must be open and what must stay closed, and whether it is."""

from __future__ import annotations

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, climb_of, print_json, print_table

NAME = "expect"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """Judge every expectation; exit status 1 where one does not hold."""
    judged = climb_of(design_file).expectations
    if as_json:
        print_json([j.as_dict() for j in judged])
    else:
        rows = [
            ("yes" if j.holds else "NO", j.name, f"{j.source} to {j.target}", j.expect, ", ".join(j.services), j.reason)
            for j in judged
        ]
        print_table(("holds", "expectation", "ends", "expect", "services", "why"), rows, "Nothing is expected.")
    raise typer.Exit(OK if all(j.holds for j in judged) else STOPPED)
