"""Tunnels: which are up, found by the walks of their own packets outside, and the site as it is then. Start at `fixed_point.py`."""

from anabasis.tunnels.fixed_point import build_site

__all__ = ["build_site"]
