"""Namespaces of the kernel: made, named after the run, swept away; what runs in one of them, and nothing of the host's own.

Needs root with network namespaces, `ip` (iproute2) and `nft` (nftables).
"""

from __future__ import annotations

import fcntl
import os
import shutil
import socket
import struct
import subprocess
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from ctypes import CDLL, addressof, create_string_buffer, get_errno
from ctypes.util import find_library
from pathlib import Path
from typing import TypeVar

from anabasis.errors import InputRefused, Problem

T = TypeVar("T")
PREFIX = "anabasis-"
NAMED = Path("/run/netns")
CLONE_NEWNET = 0x40000000
SIOCETHTOOL = 0x8946
CHECKSUMS_AND_SEGMENTS = (0x17, 0x1F, 0x24, 0x2C)
"""ETHTOOL_STXCSUM, STSO, SGSO, SGRO: a bridge in user space has to see frames as they are on a wire."""
_libc = CDLL(find_library("c"), use_errno=True)


def check_allowed() -> None:
    """Raises InputRefused where this process may not make namespaces, or a program is missing."""
    missing = [p for p in ("ip", "nft") if shutil.which(p) is None]
    if missing:
        raise InputRefused(
            [Problem("", "a program is missing that builds the proof", ", ".join(missing), "iproute2 and nftables")]
        )
    if os.geteuid() != 0:
        raise InputRefused(
            [Problem("", "real packets need root with network namespaces", f"user {os.geteuid()}", "user 0")]
        )
    try:
        with ThreadPoolExecutor(1) as thread:
            thread.submit(_unshared).result()
    except OSError as error:
        raise InputRefused(
            [Problem("", "this machine gives no network namespaces", str(error), "CAP_SYS_ADMIN")]
        ) from None


def _unshared() -> None:
    if _libc.unshare(CLONE_NEWNET):
        raise OSError(get_errno(), os.strerror(get_errno()))


def sweep() -> int:
    """Take away namespaces of runs that are no more. Return how many."""
    gone = 0
    for path in NAMED.glob(f"{PREFIX}*-*") if NAMED.is_dir() else ():
        pid = path.name[len(PREFIX) :].partition("-")[0]
        if pid.isdigit() and not Path(f"/proc/{pid}").exists():
            subprocess.run(["ip", "netns", "del", path.name], check=False, capture_output=True)
            gone += 1
    return gone


class Namespaces:
    """The namespaces of one run."""

    def __init__(self, names: Iterable[str]) -> None:
        self.run = f"{PREFIX}{os.getpid()}-{os.urandom(2).hex()}"
        self.of = {name: f"{self.run}-{k}" for k, name in enumerate(names)}

    def __enter__(self) -> Namespaces:
        sweep()
        try:
            told([f"netns add {n}" for n in self.of.values()])
        except BaseException:
            self.remove()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        self.remove()

    def remove(self) -> None:
        """Take them away, with all that is in them."""
        subprocess.run(
            ["ip", "-force", "-batch", "-"],
            input="".join(f"netns del {n}\n" for n in self.of.values()),
            text=True,
            check=False,
            capture_output=True,
        )

    def within(self, name: str, do: Callable[[], T]) -> T:
        """Do something in a namespace, by a thread that ends with it."""

        def entered() -> T:
            handle = os.open(NAMED / self.of[name], os.O_RDONLY)
            try:
                if _libc.setns(handle, CLONE_NEWNET):
                    raise OSError(get_errno(), os.strerror(get_errno()))
            finally:
                os.close(handle)
            return do()

        with ThreadPoolExecutor(1) as thread:
            return thread.submit(entered).result()


def told(commands: Iterable[str]) -> None:
    """Have `ip` do commands in the namespace of this thread, those that begin with `-6` for IPv6. Raises RuntimeError with what it said."""
    by_family: dict[str, list[str]] = {}
    for command in commands:
        by_family.setdefault("-6" if command.startswith("-6 ") else "", []).append(command.removeprefix("-6 "))
    for family, lines in by_family.items():
        text = "\n".join(lines) + "\n"
        done = subprocess.run(
            ["ip", *family.split(), "-batch", "-"], input=text, text=True, capture_output=True, check=False
        )
        if done.returncode:
            at = done.stderr.rpartition(":")[2].strip()
            line = lines[int(at) - 1] if at.isdigit() and int(at) <= len(lines) else ""
            raise RuntimeError(f"ip {line}: {done.stderr.strip()[:400]}")


def ruled(text: str) -> None:
    """Have `nft` take a ruleset. Raises RuntimeError with what it said."""
    if text:
        done = subprocess.run(["nft", "-f", "-"], input=text, text=True, capture_output=True, check=False)
        if done.returncode:
            raise RuntimeError(f"nft: {done.stderr.strip()[:600]}")


def set_up(values: dict[str, str]) -> None:
    """Set parameters of the namespace of this thread, below /proc/sys/net."""
    for key, value in values.items():
        path = Path("/proc/sys/net") / key
        if path.exists():
            path.write_text(value)


def as_on_a_wire(device: str) -> None:
    """Have the kernel hand over whole frames with their checksums, one by one."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asks:
        for what in CHECKSUMS_AND_SEGMENTS:
            value = create_string_buffer(struct.pack("II", what, 0))
            request = struct.pack("16sP16x", device.encode(), addressof(value))
            try:
                fcntl.ioctl(asks, SIOCETHTOOL, request)
            except OSError:
                continue
