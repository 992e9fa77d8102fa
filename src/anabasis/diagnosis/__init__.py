"""Diagnosis: of what was seen, the mistakes that explain it, and the next test that tells them apart."""

from anabasis.diagnosis.explaining import Answered, Diagnosis, Explanation, diagnose
from anabasis.diagnosis.rows import diagnosis_rows

__all__ = ["Answered", "Diagnosis", "Explanation", "diagnose", "diagnosis_rows"]
