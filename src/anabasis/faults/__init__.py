"""The catalogue of single faults: what engineers get wrong, one thing at a time, each as the edit that makes it."""

from anabasis.faults.catalogue import KINDS, OPENING, faults_of
from anabasis.faults.kinds import Fault

__all__ = [
    "KINDS",
    "OPENING",
    "Fault",
    "faults_of",
]
