"""The command line (docs/command-line.md): one file a command; nothing is computed here."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from anabasis import __version__
from anabasis.cli import (
    book,
    build,
    campaign,
    compare,
    defence,
    diagnose,
    ends,
    expect,
    failover,
    faults,
    findings,
    interfaces,
    migrate,
    openapi,
    plug,
    prove,
    reach,
    read,
    routes,
    schema,
    segments,
    serve,
    siblings,
    stand_in,
    survey,
    tests,
    walk,
    write,
)
from anabasis.cli.output import OK, REFUSED
from anabasis.errors import AnabasisError

app = typer.Typer(
    name="anabasis",
    help="Which segments may reach which, and why: computed from one design file.",
    add_completion=True,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)
for _part in (
    segments,
    interfaces,
    routes,
    reach,
    walk,
    plug,
    findings,
    expect,
    compare,
    ends,
    siblings,
    failover,
    faults,
    read,
    write,
    book,
    build,
    tests,
    diagnose,
    migrate,
    prove,
    campaign,
    defence,
    survey,
    stand_in,
    schema,
    openapi,
    serve,
):
    app.command(_part.NAME, help=_part.command.__doc__)(_part.command)


def _told(wanted: bool) -> None:
    if wanted:
        print(__version__)
        raise typer.Exit


@app.callback()
def _whole(
    version: Annotated[
        bool, typer.Option("--version", callback=_told, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    """Which segments may reach which, and why: computed from one design file."""


def main() -> None:
    """Run a command. Exit status: 0 done, 1 what was asked does not hold, 2 the input or the call is wrong."""
    try:
        app(standalone_mode=True)
    except AnabasisError as error:
        print(error, file=sys.stderr)
        sys.exit(REFUSED)
    except BrokenPipeError:
        sys.stderr.close()  # the reader of a pipe went away; nothing is lost
        sys.exit(OK)


__all__ = ["app", "main"]
