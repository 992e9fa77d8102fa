"""Results of tests: rows that go out, and what people type into them."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from ipaddress import ip_address, ip_network
from typing import Any

from anabasis.cells import escaped, unescaped
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import NOTHING_SHOWN, Aim, AimKind, Do, SheetTest, Shown
from anabasis.testing.signatures import Signatures
from anabasis.wording import do_said, expect_said, meanwhile_said, shown_text, stand_said

COLUMNS = ("id", "at", "tag", "do", "target", "service", "expect", "seen", "state", "how", "why")
YES = ("answer", "yes", "y", "ok", "reply", "open", "connected", "+")
NO = ("none", "no", "n", "nothing", "timeout", "closed", "-")
UP, DOWN = ("up", "yes", "y", "ok", "link", "active", "+"), ("down", "no", "n", "none", "inactive", "-")
LIMIT_ROWS = 20_000


@dataclass(frozen=True)
class Result:
    """What somebody saw at one test."""

    test: SheetTest
    seen: Shown
    text: str


def sheet_row(test: SheetTest, seen: str = "") -> dict[str, Any]:
    """Return one line of a sheet (command-line promise, `tests`)."""
    return {
        "id": test.id,
        "at": test.at,
        "tag": test.tag,
        "do": test.do.value,
        "target": test.target,
        "service": test.service,
        "expect": shown_text(test.expect),
        "seen": seen,
        "state": meanwhile_said(test),
        "stand": stand_said(test),
        "how": do_said(test),
        "to_see": expect_said(test),
        "why": "; ".join(dict.fromkeys(_aim_text(a) for a in test.aims if _aim_text(a))),
        "host": test.host,
        "segment": test.segment,
        "to": test.to,
    }


def _aim_text(aim: Aim) -> str:
    return aim.name if aim.kind != AimKind.FAULTS else ""


def key_of(row: dict[str, Any]) -> tuple[str, ...]:
    """Return what tells a test again in another state of the design: where one stands, what one does, and to whom."""
    return tuple(str(row.get(k) or "") for k in ("at", "tag", "do", "target", "service"))


def as_csv(rows: Iterable[dict[str, Any]]) -> str:
    """Return a sheet as CSV (RFC 4180); what a spreadsheet would take for a formula is escaped."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, extrasaction="ignore", lineterminator="\r\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({k: escaped("" if row.get(k) is None else str(row[k])) for k in COLUMNS})
    return out.getvalue()


def read_results(text: str, pool: Signatures) -> tuple[list[Result], list[str]]:
    """Return what was seen, and the lines that no test of this design is asked by (stale ones, of another state). Raises InputRefused.

    A row is told by where one stands, what one does and to whom; where the file has an id alone, by that.
    """
    read = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    rows = [{k: unescaped(v) if isinstance(v, str) else v for k, v in row.items()} for row in read]
    if not rows or "seen" not in (rows[0] or {}):
        raise InputRefused(
            [Problem("", "no results are in this file", allowed=f"CSV with the columns {', '.join(COLUMNS)}")]
        )
    if len(rows) > LIMIT_ROWS:
        raise InputRefused([Problem("", "too many results", str(len(rows)), f"{LIMIT_ROWS} at most")])
    by_key = {key_of(sheet_row(t)): t for t in pool.tests}
    by_id = {t.id: t for t in pool.tests}
    out: list[Result] = []
    strange: list[str] = []
    problems: list[Problem] = []
    for line, row in enumerate(rows, 2):
        seen = (row.get("seen") or "").strip().lstrip("'")
        if not seen:
            continue
        test = (
            by_key.get(key_of({k: (v or "").lstrip("'") for k, v in row.items() if k}))
            if row.get("do")
            else by_id.get((row.get("id") or "").strip())
        )
        if test is None:
            strange.append(f"{line}")
            continue
        shown = read_seen(seen, test, pool.values)
        if shown is None:
            allowed = allowed_for(test)
            problems.append(
                Problem(
                    f"/{line}/seen",
                    "this is nothing that such a test shows",
                    repr(seen),
                    allowed,
                    nearest(seen, allowed.split(", ")),
                )
            )
        else:
            out.append(Result(test, shown, seen))
    if problems:
        raise InputRefused(problems)
    return out, strange


def read_row(
    row: dict[str, Any], text: str, values: Sequence[Shown] = (), test: SheetTest | None = None
) -> Shown | None:
    """Return what somebody typed in at a line that was kept; None for what such a test never shows. `test`: the line as it is now, where it is known."""
    if test is None:
        expect = _expected(row)
        test = SheetTest(
            row["id"], row["at"], row.get("tag"), Do(row["do"]), row["target"], row["service"], expect, (), "", ""
        )
    if text == shown_text(test.expect):
        return test.expect
    return read_seen(text, test, values)


def _expected(row: dict[str, Any]) -> Shown:
    text = str(row["expect"])
    if row["do"] == Do.LEASE:
        network, _, gateway = text.partition(" via ")
        return NOTHING_SHOWN if text == "none" else Shown("address", network, gateway)
    first, _, rest = text.partition(" ")
    if first in ("up", "down"):
        return Shown("up" if first == "up" else "down", detail=rest)
    return Shown("answer") if first == "answer" else NOTHING_SHOWN


def allowed_for(test: SheetTest) -> str:
    """Return what can be typed in for a test."""
    if test.do == Do.LEASE:
        return "none, 10.64.130.205, 10.64.130.205 via 10.64.130.1"
    return "up, down" if test.do in (Do.LINK, Do.LOOK) else "answer, none"


def read_seen(text: str, test: SheetTest, values: Sequence[Shown]) -> Shown | None:
    """Return what somebody typed in for a test; None for what such a test never shows.

    An address is one of the subnet it lies in; a gateway, a count or a name that is not typed in is taken to be as expected.
    """
    word = text.strip().lower()
    if test.do in (Do.PING, Do.CONNECT):
        return Shown("answer") if word in YES else NOTHING_SHOWN if word in NO else None
    if test.do == Do.LEASE:
        return NOTHING_SHOWN if word in NO else _lease(word, test, values)
    first, _, rest = word.partition(" ")
    first = first.rstrip(",")
    if first in DOWN:
        return Shown("down")
    if first not in UP:
        return None
    if not rest:
        return test.expect if test.expect.kind == "up" else Shown("up")
    return next(
        (v for v in values if v.kind == "up" and v.detail.lower() == rest.strip()), Shown("up", detail=rest.strip())
    )


def _lease(word: str, test: SheetTest, values: Sequence[Shown]) -> Shown | None:
    address, _, gateway = (p.strip() for p in word.replace(",", " ").partition(" via "))
    try:
        span = ip_network(address, strict=False)
        own = ip_address(gateway) if gateway else None
    except ValueError:
        return None
    fitting = [v for v in (test.expect, *values) if v.kind == "address" and _inside(span, v.network)]
    exact = [v for v in fitting if own is None or v.gateway == str(own)]
    if exact:
        return exact[0]
    return Shown("address", fitting[0].network if fitting else str(span), str(own) if own else "")


def _inside(span: Any, network: str) -> bool:
    other = ip_network(network)
    return bool(
        other.version == span.version and (span == other or (span.num_addresses == 1 and span.subnet_of(other)))
    )
