"""`anabasis plug`."""

from typing import Annotated

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, Fail, climb_of, print_json, print_table
from anabasis.views import plug_row

NAME = "plug"


def command(
    design_file: DesignFile,
    place: Annotated[str, typer.Argument(metavar="DEVICE:PORT", help="Where the laptop is plugged in.")],
    tag: Annotated[
        int | None,
        typer.Option(
            "--tag", min=0, max=4094, help="Its frames carry this tag; 0 is a priority tag, which counts as untagged."
        ),
    ] = None,
    fail: Fail = None,
    as_json: AsJson = False,
) -> None:
    """Plug a laptop into a port: its VLAN, segment, address, gateway, and what it reaches. Exit status 1 where something stops it."""
    found = climb_of(design_file, fail).plug(place, tag)
    row = plug_row(found)
    if as_json:
        print_json(row.as_dict())
    else:
        shown = [(k.replace("_", " "), _text(v)) for k, v in row.as_dict().items()]
        print_table(("", "what it finds"), [(k, v) for k, v in shown if v], "")
    raise typer.Exit(STOPPED if found.layer else OK)


def _text(value: object) -> object:
    """Lists and options on one line; a lease's time with its unit."""
    if isinstance(value, dict):
        units = {"lease_s": ("lease", " s")}
        said = ((units.get(k, (k.replace("_", " "), "")), v) for k, v in value.items())
        return ", ".join(f"{name} {v}{unit}" for (name, unit), v in said)
    return ", ".join(value) if isinstance(value, list) else value
