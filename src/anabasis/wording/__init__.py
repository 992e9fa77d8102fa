"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.causes import frames, say
from anabasis.wording.reasons import Reasoned
from anabasis.wording.steps import arrival, tell
from anabasis.wording.verdicts import because_of

__all__ = [
    "Reasoned",
    "arrival",
    "because_of",
    "frames",
    "say",
    "tell",
]
