"""`anabasis interfaces`."""

from anabasis.cli.output import AsJson, DesignFile, climb_of, print_json, print_table
from anabasis.routing import interface_rows

NAME = "interfaces"


def command(design_file: DesignFile, as_json: AsJson = False) -> None:
    """List all ports, bundles and layer-3 interfaces: up or not, and why."""
    site = climb_of(design_file).site
    rows = interface_rows(site.fabric, site.net.interfaces)
    if as_json:
        print_json([r.as_dict() for r in rows])
        return
    shown = [
        (r.device, r.interface, r.mode, "up" if r.up else "down", ", ".join(r.addresses), r.vrf, r.zone, r.reason)
        for r in rows
    ]
    print_table(
        ("device", "interface", "mode", "state", "addresses", "VRF", "zone", "reason"), shown, "No device has a port."
    )
