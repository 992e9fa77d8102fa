"""Leases (RFC 2131): what every client is handed, and the site as its hosts stand in it then. Start at `standing.py`."""

from anabasis.leases.leasing import relay_problem
from anabasis.leases.standing import build_site

__all__ = [
    "build_site",
    "relay_problem",
]
