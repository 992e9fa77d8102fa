"""The policy of firewalls: zones, ordered rules, translation, answers. The pipeline they make up is docs/semantics.md, "Policy"."""

from anabasis.policy.answers import AnswerList
from anabasis.policy.firewalls import Policies, Policy, build_policies
from anabasis.policy.rules import RuleLine
from anabasis.policy.terms import ANY_ADDRESS, ANY_SERVICE, Service, ServiceSpan, Span, Terms
from anabasis.policy.translation import AddressMap, ServiceMap, Translation

__all__ = [
    "ANY_ADDRESS",
    "ANY_SERVICE",
    "AddressMap",
    "AnswerList",
    "Policies",
    "Policy",
    "RuleLine",
    "Service",
    "ServiceMap",
    "ServiceSpan",
    "Span",
    "Terms",
    "Translation",
    "build_policies",
]
