"""Services by name: a published table over the IANA Service Name and Transport Protocol Port Number Registry.

The table (`iana_services.csv`) follows the registry for the names it lists. Where the registry gives a name to a transport that the
service does not use, the table keeps what people mean: `https` is tcp 443, `dns` is tcp and udp 53, and `ping` is the
echo request of ICMP (type 8, RFC 792) and ICMPv6 (type 128, RFC 4443).
"""

from __future__ import annotations

import csv
from functools import cache
from importlib.resources import files

from anabasis.design.notation import parse_service


@cache
def iana_services() -> dict[str, tuple[tuple[int, int, int], ...]]:
    """Return name -> ((protocol, first, last), ...), see `parse_service`."""
    table: dict[str, list[tuple[int, int, int]]] = {}
    with files("anabasis.design").joinpath("iana_services.csv").open(encoding="utf-8") as handle:
        for row in csv.DictReader(handle):
            table.setdefault(row["name"], []).append(parse_service(f"{row['protocol']}/{row['port_or_type']}"))
    return {name: tuple(members) for name, members in table.items()}
