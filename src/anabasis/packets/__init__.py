"""The referee: a design built of network namespaces, veth pairs, nftables and bridges in user space, and real packets sent through it.

It reads the document alone. Nothing of the engines is used here, and nothing here is used by them.
"""

from anabasis.packets.kernel import check_allowed
from anabasis.packets.lab import Given, unproved
from anabasis.packets.probing import Probe
from anabasis.packets.running import send

__all__ = ["Given", "Probe", "check_allowed", "send", "unproved"]
