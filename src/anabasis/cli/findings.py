"""`anabasis findings`."""

import typer

from anabasis.cli.output import OK, STOPPED, AsJson, DesignFile, climb_of, print_json, print_table

NAME = "findings"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List what to mend, the grave things first. Exit status 1 where something breaks."""
    findings = climb_of(design_file).findings
    if as_json:
        print_json([f.as_dict() for f in findings])
    else:
        shown = [(f.kind.severity, f.code, f.sentence, " ".join(f.pointers), "yes" if f.mend else "") for f in findings]
        print_table(("severity", "code", "what", "where", "one edit mends it"), shown, "Nothing to mend.")
    raise typer.Exit(STOPPED if any(f.kind.severity == "breaks" for f in findings) else OK)
