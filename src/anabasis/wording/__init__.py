"""Every sentence about a cause, made from facts; nothing reads a sentence."""

from anabasis.wording.building import (
    back_said,
    check_said,
    line_said,
    state_said,
    step_title,
    undo_said,
    wait_said,
)
from anabasis.wording.causes import frames, say
from anabasis.wording.defence import case_said, depth_said, mistake_said
from anabasis.wording.drift import drift_said, place_of, silence_said, value_said
from anabasis.wording.edits import edit_words, everything, lease_words
from anabasis.wording.elections import (
    all_decided,
    decided,
    drill_before,
    drill_do,
    drill_measure,
    what_happens,
)
from anabasis.wording.findings import tell_finding
from anabasis.wording.migrating import noted
from anabasis.wording.proving import computed_of, covered, left_out, proof_said, taken_as
from anabasis.wording.reasons import Reasoned
from anabasis.wording.routes import looks_at
from anabasis.wording.steps import tell
from anabasis.wording.tables import taken_for_granted
from anabasis.wording.testing import do_said, expect_said, meanwhile_said, shown_text, stand_said
from anabasis.wording.verdicts import became, because_of, shown_by

__all__ = [
    "Reasoned",
    "all_decided",
    "back_said",
    "became",
    "because_of",
    "case_said",
    "check_said",
    "computed_of",
    "covered",
    "decided",
    "depth_said",
    "do_said",
    "drift_said",
    "drill_before",
    "drill_do",
    "drill_measure",
    "edit_words",
    "everything",
    "expect_said",
    "frames",
    "lease_words",
    "left_out",
    "line_said",
    "looks_at",
    "meanwhile_said",
    "mistake_said",
    "noted",
    "place_of",
    "proof_said",
    "say",
    "shown_by",
    "shown_text",
    "silence_said",
    "stand_said",
    "state_said",
    "step_title",
    "taken_as",
    "taken_for_granted",
    "tell",
    "tell_finding",
    "undo_said",
    "value_said",
    "wait_said",
    "what_happens",
]
