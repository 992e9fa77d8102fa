"""`anabasis routes`."""

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table

NAME = "routes"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List the routing table of every VRF of every device: which of several routes is chosen, what stands by, what is inactive, and why."""
    routes = [(t, r) for t in climb_of(design_file).site.net.tables.values() for r in t.routes]
    if as_json:
        print_json([r.as_dict() | {"state": t.state_of(r)} for t, r in routes])
        return
    shown = [
        (r.device, r.vrf, r.to, r.goes_to, r.interface, r.origin, t.state_of(r), f"{r.preference}/{r.metric}", r.reason)
        for t, r in routes
    ]
    head = ("device", "VRF", "to", "goes to", "interface", "origin", "state", "preference/metric", "reason")
    print_table(head, shown, "No device has a route.")
