"""`anabasis write`: a plain table of a design, for a spreadsheet."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from anabasis.cli.output import DesignFile
from anabasis.climb import Climb
from anabasis.design import load_file
from anabasis.interchange import COMPUTED, write, write_computed

NAME = "write"
Kind = Annotated[
    str,
    typer.Argument(
        metavar="KIND",
        help="vlans, ports, cables, interfaces, routes, rules, leases ..., topology (RFC 8345), yang (RFC 7951); computed: segments, standing, routing, decisions, judgements, drills, findings",
    ),
]

Device = Annotated[str, typer.Option("--device", metavar="NAME", help="Of YANG data, those of one box alone.")]


def command(kind: Kind, design_file: DesignFile, device: Device = "") -> None:
    """Write one table of a design as CSV (RFC 4180), its cabling as a topology (RFC 8345), or all of it as YANG data (RFC 7951, RFC 9195), on standard output."""
    loaded = load_file(design_file)
    if kind in COMPUTED:
        sys.stdout.write(write_computed(kind, Climb(loaded.design)))
    else:
        sys.stdout.write(write(kind, loaded.raw, device))
