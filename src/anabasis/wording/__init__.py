"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.causes import SAID, frames, say

__all__ = ["SAID", "frames", "say"]
