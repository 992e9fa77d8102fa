"""Diagnosis: of what was seen, the mistakes that explain it, and the next test that tells them apart."""

from anabasis.diagnosis.explaining import Answered, diagnose
from anabasis.diagnosis.rows import diagnosis_rows

__all__ = ["Answered", "diagnose", "diagnosis_rows"]
