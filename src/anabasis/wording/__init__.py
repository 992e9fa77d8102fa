"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.causes import frames, say
from anabasis.wording.findings import tell_finding
from anabasis.wording.reasons import Reasoned
from anabasis.wording.steps import tell
from anabasis.wording.verdicts import became, because_of, shown_by

__all__ = [
    "Reasoned",
    "became",
    "because_of",
    "frames",
    "say",
    "shown_by",
    "tell",
    "tell_finding",
]
