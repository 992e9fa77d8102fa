"""Proof: real packets beside what was computed."""

from anabasis.proof.proving import prove
from anabasis.proof.rows import proof_rows

__all__ = ["proof_rows", "prove"]
