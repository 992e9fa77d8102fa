"""`anabasis reach`."""

from typing import Annotated

import typer

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table
from anabasis.reach import ask

NAME = "reach"

Service = Annotated[str | None, typer.Option("--service", help="Only this service: tcp/443, https, any, or a set.")]
Family = Annotated[int | None, typer.Option("--family", help="Only this address family: 4 or 6.")]


def command(design_file: DesignFile, service: Service = None, family: Family = None, as_json: AsJson = False) -> None:
    """Say for every ordered pair of segments which flows pass, and what stops the rest first."""
    climb = climb_of(design_file)
    verdicts = climb.verdicts(ask(climb.site, service, family))
    if as_json:
        print_json(verdicts.as_dict())
        return
    shown = [(v.source, v.target, v.verdict, v.layer, v.reason) for v in verdicts.all]
    print_table(("from", "to", "verdict", "layer", "reason"), shown, "Fewer than two segments: nothing to reach.")
