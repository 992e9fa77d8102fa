"""Addresses of one subnet as those of another, host parts kept, wherever a part of the document has them."""

from __future__ import annotations

from ipaddress import IPv4Network, IPv6Network, ip_address
from typing import Any

from anabasis.errors import InputRefused, Problem

Net = IPv4Network | IPv6Network
PROSE = ("name", "note", "who", "at", "drills", "purpose")
"""What is no address even where it looks like one."""


class Readdressed:
    """Addresses of one subnet as those of another, host parts kept."""

    def __init__(self, old: Net, new: Net) -> None:
        self.old, self.new, self.count = old, new, 0

    def value(self, node: Any, key: str = "") -> Any:
        """Return a part of the document after it. Raises InputRefused where a host has no place in the new subnet."""
        if isinstance(node, dict):
            return {k: v if k in PROSE else self.value(v, k) for k, v in node.items()}
        if isinstance(node, list):
            return [self.value(v, key) for v in node]
        return self._text(node) if isinstance(node, str) else node

    def _text(self, text: str) -> str:
        first, dash, last = text.partition("-")
        if dash and first and last:
            one, two = self._text(first), self._text(last)
            return text if (one, two) == (first, last) else f"{one}-{two}"
        address, slash, length = text.partition("/")
        try:
            here = ip_address(address)
        except ValueError:
            return text
        if here.version != self.old.version or here not in self.old:
            return text
        if slash and int(length) < self.old.prefixlen:
            return text  # a wider network that holds it
        self.count += 1
        host = int(here) - int(self.old.network_address)
        if host >= self.new.num_addresses:
            raise InputRefused(
                [
                    Problem(
                        "/to",
                        "it has no place for every host",
                        str(self.new),
                        f"a subnet that holds host {host}, as {text} has",
                    )
                ]
            )
        moved = ip_address(int(self.new.network_address) + host)
        if not slash:
            return str(moved)
        size = self.new.prefixlen if int(length) == self.old.prefixlen else max(int(length), self.new.prefixlen)
        return f"{moved}/{size}"
