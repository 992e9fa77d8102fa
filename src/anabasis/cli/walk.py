"""`anabasis walk`."""

from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, Fail, climb_of, print_json, print_table
from anabasis.trace import Walk

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
    as_json: AsJson = False,
) -> None:
    """Follow one packet and its reply, hop by hop. Exit status 1 where it is stopped."""
    walk = climb_of(design_file, fail).walk(source, target, service)
    if as_json:
        print_json(walk.as_dict())
    else:
        print_table(("way", "device", "stage", "what happens", "decided by"), _rows(walk), "")
        print(f"{walk.outcome}{f' at layer {walk.layer}' if walk.layer else ''}: {walk.reason}")
    raise typer.Exit(STOPPED if walk.outcome == "stopped" else OK)


def _rows(walk: Walk) -> list[tuple[object, ...]]:
    rows: list[tuple[object, ...]] = [("there", h.device, h.stage, h.text, h.pointer) for h in walk.hops]
    back = walk.way_back.hops if walk.way_back else ()
    return rows + [("back", h.device, h.stage, h.text, h.pointer) for h in back]
