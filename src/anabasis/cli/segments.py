"""`anabasis segments`."""

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table

NAME = "segments"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List the segments: which ports hear each other without crossing a filtering point."""
    rows = [s.as_dict() for s in climb_of(design_file).site.segments.all]
    if as_json:
        print_json(rows)
        return
    shown = [
        (r["name"], ", ".join(r["subnets"]), " ".join(map(str, r["vlan_ids"])), " ".join(r["ports"])) for r in rows
    ]
    print_table(("segment", "subnets", "VLAN", "ports"), shown, "No segment: no port takes frames yet.")
