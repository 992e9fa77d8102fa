"""`anabasis book`: the site book."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

import typer

from anabasis.cli.output import DesignFile
from anabasis.climb import Climb
from anabasis.design import load_file
from anabasis.interchange import cabling_svg, site_book
from anabasis.views import cabling

NAME = "book"
Drawing = Annotated[bool, typer.Option("--drawing", help="The drawing of the cabling alone, as SVG.")]
Dated = Annotated[bool, typer.Option("--dated/--undated", help="Whether it says when it was written.")]


def command(design_file: DesignFile, drawing: Drawing = False, dated: Dated = True) -> None:
    """Write the site book as one HTML file that prints to A4 and Letter, on standard output."""
    loaded = load_file(design_file)
    climb = Climb(loaded.design)
    if drawing:
        print(cabling_svg(cabling(climb.site.fabric)), end="")
    else:
        print(site_book(climb, loaded.raw, design_file.name, datetime.now() if dated else None))
