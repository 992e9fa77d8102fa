"""`anabasis routes`."""

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table

NAME = "routes"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List the routing table of every VRF of every device: active or not, and why."""
    routes = [r for t in climb_of(design_file).site.net.tables.values() for r in t.routes]
    if as_json:
        print_json([r.as_dict() for r in routes])
        return
    shown = [
        (r.device, r.vrf, r.to, r.goes_to, r.interface, r.origin, "active" if r.active else "inactive", r.reason)
        for r in routes
    ]
    print_table(
        ("device", "VRF", "to", "goes to", "interface", "origin", "state", "reason"), shown, "No device has a route."
    )
