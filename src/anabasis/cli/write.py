"""`anabasis write`: a plain table of a design, for a spreadsheet."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from anabasis.cli.output import DesignFile
from anabasis.design import load_file
from anabasis.interchange import write_table

NAME = "write"
Kind = Annotated[
    str, typer.Argument(metavar="KIND", help="vlans, ports, cables, interfaces, routes, rules, leases ...")
]


def command(kind: Kind, design_file: DesignFile) -> None:
    """Write one table of a design as CSV on standard output (RFC 4180)."""
    sys.stdout.write(write_table(kind, load_file(design_file).raw))
