"""`anabasis prove`: real packets beside what was computed."""

from __future__ import annotations

from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, print_json, print_table
from anabasis.design import load_file
from anabasis.errors import InputRefused, Problem
from anabasis.proof import proof_rows, prove

NAME = "prove"


def command(
    design_file: DesignFile,
    pairs: Annotated[
        list[str] | None, typer.Option("--pairs", help="Of these segments alone, as `from>to`; may be given again.")
    ] = None,
    down: Annotated[
        list[str] | None,
        typer.Option("--down", help="A box, port or cable that has failed meanwhile; may be given again."),
    ] = None,
    every: Annotated[bool, typer.Option("--all", help="Print every packet, not those alone that differ.")] = False,
    as_json: AsJson = False,
) -> None:
    """Build the design of network namespaces, send packets, and hold what happened against what was computed; needs root. Exit status 1 where they differ."""
    proof = prove(load_file(design_file).raw, [_pair(p) for p in pairs or []], down or [])
    told = proof_rows(proof)
    if as_json:
        print_json(told)
    else:
        shown = [r for r in told["results"] if every or r["differs"]]
        print_table(
            ("from", "to", "address", "service", "computed", "seen"),
            [(r["from"], r["to"], r["target"], r["service"], r["why"], r["seen"]) for r in shown],
            "Packets and engine agree." if told["probes"] else "There is nothing to send.",
        )
        print(told["said"])
        for word, said in (
            ("met", told["covered"]),
            ("taken as computed", told["taken"]),
            ("left out", told["left_out"]),
        ):
            if said:
                print(f"{word}: {'; '.join(said)}.")
    raise typer.Exit(STOPPED if proof.differ else OK)


def _pair(text: str) -> tuple[str, str]:
    one, sign, two = text.partition(">")
    if not sign or not one.strip() or not two.strip():
        raise InputRefused([Problem("--pairs", "no pair of segments", repr(text), "such as 'keepers>life-support'")])
    return one.strip(), two.strip()
