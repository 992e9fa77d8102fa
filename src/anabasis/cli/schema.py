"""`anabasis schema`."""

from typing import Annotated

import typer

from anabasis.design import json_schema
from anabasis.findings import as_markdown
from anabasis.interchange import module_text

NAME = "schema"


def command(
    findings: Annotated[
        bool, typer.Option("--findings", help="Print the catalogue of findings (Markdown) instead.")
    ] = False,
    yang: Annotated[bool, typer.Option("--yang", help="Print our YANG module instead.")] = False,
) -> None:
    """Print the JSON Schema of the design document, as docs/design.schema.json holds it."""
    print(as_markdown() if findings else module_text() if yang else json_schema(), end="")
