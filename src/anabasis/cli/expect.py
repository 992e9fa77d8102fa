"""`anabasis expect`: what must be open and what must stay closed, and whether it is."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, At, DesignFile, climb_of, print_json, print_table
from anabasis.climb import Climb

NAME = "expect"


Unasked = Annotated[
    bool, typer.Option("--unasked", help="What passes though no expectation and no purpose speaks of it.")
]


def command(design_file: DesignFile, open_unasked: Unasked = False, at: At = None, as_json: AsJson = False) -> None:
    """Judge every expectation; exit status 1 where one does not hold."""
    if open_unasked:
        _unasked(climb_of(design_file, at=at), as_json)
        return
    judged = climb_of(design_file, at=at).expectations
    if as_json:
        print_json([j.as_dict() for j in judged])
    else:
        rows = [
            ("yes" if j.holds else "NO", j.name, f"{j.source} to {j.target}", j.expect, ", ".join(j.services), j.reason)
            for j in judged
        ]
        print_table(("holds", "expectation", "ends", "expect", "services", "why"), rows, "Nothing is expected.")
    raise typer.Exit(OK if all(j.holds for j in judged) else STOPPED)


def _unasked(climb: Climb, as_json: bool) -> None:
    found = climb.unasked
    if as_json:
        print_json(asdict(found))
        return
    print_table(
        ("from", "to", "passes"),
        [(p.source, p.target, p.services) for p in found.open],
        "Whatever passes is expected, or what a purpose is for.",
    )
    if found.more:
        print(f"And {found.more} more pairs.")
    for one in found.left_out:
        print(
            f"{one.device}: rules let others of {one.zone} out to {one.towards}, and leave out {one.segment} ({one.subnet})."
        )
