"""`anabasis ends`."""

from dataclasses import asdict

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table
from anabasis.design import load_file
from anabasis.views import cable_ends

NAME = "ends"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """Hold both ends of every cable that carries VLANs side by side; those that differ come first."""
    found = cable_ends(climb_of(design_file).site.fabric, load_file(design_file).raw)
    if as_json:
        print_json([asdict(row) for row in found])
        return
    shown = [(*(f"{e.label} {e.short}" for e in row.ends), "; ".join(row.differences) or "alike") for row in found]
    print_table(("one end", "the other", "differ in"), shown, "No cable carries a VLAN.")
