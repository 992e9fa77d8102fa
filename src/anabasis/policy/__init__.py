"""The policy of firewalls: zones, ordered rules, answers. The pipeline they make up is concepts, section 5."""

from anabasis.policy.answers import AnswerList
from anabasis.policy.firewalls import Policies, Policy, build_policies
from anabasis.policy.rules import RuleLine
from anabasis.policy.terms import ANY_ADDRESS, ANY_SERVICE, Service, ServiceSpan, Span, Terms

__all__ = [
    "ANY_ADDRESS",
    "ANY_SERVICE",
    "AnswerList",
    "Policies",
    "Policy",
    "RuleLine",
    "Service",
    "ServiceSpan",
    "Span",
    "Terms",
    "build_policies",
]
