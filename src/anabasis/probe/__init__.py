"""Questions about one spot of the site: a laptop plugged in, what one address reaches, what boxes answer for themselves."""

from anabasis.probe.exposure import Exposure, exposure
from anabasis.probe.managing import MANAGEMENT, Managed, answered, managed
from anabasis.probe.names import DNS, NameTest, name_test
from anabasis.probe.own_addresses import OwnAddresses, own_addresses
from anabasis.probe.plug import Plug, plug

__all__ = [
    "DNS",
    "MANAGEMENT",
    "Exposure",
    "Managed",
    "NameTest",
    "OwnAddresses",
    "Plug",
    "answered",
    "exposure",
    "managed",
    "name_test",
    "own_addresses",
    "plug",
]
