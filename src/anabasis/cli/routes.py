"""`anabasis routes`."""

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table
from anabasis.views import conditions

NAME = "routes"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List the routing table of every VRF of every device: which of several routes is chosen, what stands by, what is inactive, and why."""
    net = climb_of(design_file).site.net
    told = conditions(net)
    routes = [(t, r) for t in net.tables.values() for r in (*t.steering, *t.routes)]
    if as_json:
        more = ((r, {"state": t.state_of(r)} | ({"looks_at": told[r.pointer]} if r in t.steering else {})) for t, r in routes)  # fmt: skip
        print_json([r.as_dict() | m for r, m in more])
        return
    shown = [
        (
            r.device,
            r.vrf,
            f"{r.to} ({told[r.pointer]})" if r in t.steering else r.to,
            r.goes_to,
            r.interface,
            r.origin,
            t.state_of(r),
            f"{r.preference}/{r.metric}",
            r.reason,
        )
        for t, r in routes
    ]
    head = ("device", "VRF", "to", "goes to", "interface", "origin", "state", "preference/metric", "reason")
    print_table(head, shown, "No device has a route.")
