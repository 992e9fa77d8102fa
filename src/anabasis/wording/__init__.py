"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.causes import frames, say
from anabasis.wording.reasons import Reasoned

__all__ = [
    "Reasoned",
    "frames",
    "say",
]
