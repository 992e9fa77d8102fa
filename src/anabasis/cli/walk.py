"""`anabasis walk`."""

from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, At, DesignFile, Fail, climb_of, print_json, print_table
from anabasis.trace import Walk
from anabasis.views import walk_as_dict
from anabasis.wording import tell

NAME = "walk"

From = Annotated[str, typer.Option("--from", help="An address, a segment, a device, or device:port.")]
To = Annotated[str, typer.Option("--to", help="Likewise.")]
Service = Annotated[str, typer.Option("--service", help="tcp/443, https, ping, or a set (then its first member).")]


def command(
    design_file: DesignFile,
    source: From,
    target: To,
    service: Service = "ping",
    fail: Fail = None,
    at: At = None,
    as_json: AsJson = False,
) -> None:
    """Follow one packet and its reply, hop by hop. Exit status 1 where it is stopped."""
    walk = climb_of(design_file, fail, at).walk(source, target, service)
    if as_json:
        print_json(walk_as_dict(walk))
    else:
        print_table(("way", "device", "stage", "what happens", "decided by"), _rows(walk), "")
        print(f"{walk.outcome}{f' at layer {walk.layer}' if walk.layer else ''}: {walk.reason}")
    raise typer.Exit(STOPPED if walk.outcome == "stopped" else OK)


def _rows(walk: Walk) -> list[tuple[object, ...]]:
    ways = [("there", walk), *([("back", walk.way_back)] if walk.way_back else [])]
    told = ((way, tell(step)) for way, one in ways for step in one.steps)
    return [(way, t.device, t.stage, t.text, t.pointer) for way, t in told]
