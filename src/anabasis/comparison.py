"""Two states compared: as configuration, in words of the trade, and as reach."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from anabasis.climb import Climb
from anabasis.design import Difference, Patch, Tree, compare, difference
from anabasis.verdicts import Consequences


@dataclass(frozen=True)
class Comparison:
    """What leads from one state to another."""

    differences: list[Difference]
    edits: Patch
    consequences: Consequences
    unchanged: int
    """How many ordered pairs of segments, of those that are there now, reach each other as before."""
    come: list[str]
    """Findings that are there now and were not."""
    gone: list[str]

    def as_dict(self) -> dict[str, Any]:
        """Return the comparison for JSON (command-line promise, `compare`)."""
        c = self.consequences
        every = (*c.opened, *c.closed, *c.changed)
        reach: dict[str, Any] = {
            "opened": [{"from": x.source, "to": x.target, "flows": x.gained} for x in every if x.gained],
            "closed": [{"from": x.source, "to": x.target, "flows": x.lost} for x in every if x.lost],
            "unchanged": self.unchanged,
        }
        words = [
            {"sign": d.sign, "kind": d.kind, "title": d.title, "words": list(d.words), "before": d.before, "now": d.now}
            for d in self.differences
        ]
        expectations = {"broken": list(c.broken), "mended": list(c.mended)}
        findings = {"come": self.come, "gone": self.gone}
        return {"edits": self.edits, "words": words, "reach": reach, "expectations": expectations, "findings": findings}

    def as_markdown(self, one: str, two: str) -> str:
        """Return the comparison for a ticket. `one` and `two`: what the states are called."""
        c = self.consequences
        lines = [f"## {_plain(one)} → {_plain(two)}", ""]
        lines += [
            f"{len(self.differences)} changed, {len(c.opened)} pairs opened, {len(c.closed)} closed, {len(c.changed)} changed.",
            "",
        ]
        parts = {
            "Configuration": [f"{d.sign} {d.kind} **{_plain(d.title)}**" + (f": {_plain('; '.join(d.words))}" if d.words else "") for d in self.differences],
            "Reach": [
                f"{word} {_plain(x.source)} → {_plain(x.target)}: " + _plain("; ".join(f"{f['sources']} → {f['destinations']} {f['services']}" for f in side))
                for x in (*c.opened, *c.closed, *c.changed)
                for word, side in (("opened", x.gained), ("closed", x.lost))
                if side
            ],
            "Expectations": [f"broken: {_plain(n)}" for n in c.broken] + [f"mended: {_plain(n)}" for n in c.mended],
            "Findings": [f"new: {_plain(s)}" for s in self.come] + [f"gone: {_plain(s)}" for s in self.gone],
        }  # fmt: skip
        for title, entries in parts.items():
            if entries:
                lines += [f"### {title}", "", *(f"- {e}" for e in entries), ""]
        return "\n".join(lines)


MARKS = str.maketrans({c: f"\\{c}" for c in "\\`*_[]<>|#"})
"""What Markdown would take for its own (CommonMark section 2.4)."""


def _plain(text: str) -> str:
    return " ".join(text.split()).translate(MARKS)


def compare_states(one: tuple[Tree, Climb], two: tuple[Tree, Climb]) -> Comparison:
    """Compare two states of a design, or two designs. Cost: a climb each, and exact flows only where reach differs."""
    (old, before), (new, after) = one, two
    found = after.consequences_since(before)
    touched = len({(c.source, c.target) for c in (*found.opened, *found.closed, *found.changed)})
    count = sum(bool(s.attachments) for s in after.site.segments.all)
    come, gone = ([f.sentence for f in side] for side in after.findings_since(before))
    unchanged = max(0, count * (count - 1) - touched)
    return Comparison(compare(old, new), difference(old, new), found, unchanged, come, gone)
