"""What follows from exact flows: verdicts with their causes, expectations, consequences of edits, proposals, what rules really do."""

from anabasis.verdicts.consequences import Consequences, compare_reach, lost_pairs
from anabasis.verdicts.deciding import Deciding, deciding_rules
from anabasis.verdicts.expectations import Judged, judge_all, judge_some, keep_as_it_is, side_of, suggested
from anabasis.verdicts.proposals import Proposal, propose
from anabasis.verdicts.questions import ask, one_service, read_services
from anabasis.verdicts.rule_work import Classes, RuleWork, works_of, zone_classes
from anabasis.verdicts.unasked import Unasked, unasked
from anabasis.verdicts.verdicts import Question, Shown, Verdict, Verdicts, read_flows
from anabasis.verdicts.zone_members import zone_segments

__all__ = [
    "Classes",
    "Consequences",
    "Deciding",
    "Judged",
    "Proposal",
    "Question",
    "RuleWork",
    "Shown",
    "Unasked",
    "Verdict",
    "Verdicts",
    "ask",
    "compare_reach",
    "deciding_rules",
    "judge_all",
    "judge_some",
    "keep_as_it_is",
    "lost_pairs",
    "one_service",
    "propose",
    "read_flows",
    "read_services",
    "side_of",
    "suggested",
    "unasked",
    "works_of",
    "zone_classes",
    "zone_segments",
]
