"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.causes import SAID, frames, say
from anabasis.wording.reasons import Reasoned

__all__ = ["SAID", "Reasoned", "frames", "say"]
