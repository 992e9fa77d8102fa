"""The policy of firewalls: zones, ordered rules, translation, answers. The pipeline they make up is docs/semantics.md, "Policy"."""

from anabasis.policy.answers import AnswerList
from anabasis.policy.building import build_policies
from anabasis.policy.filters import BACK, THERE
from anabasis.policy.firewalls import Policies, Policy
from anabasis.policy.leases import LeaseServer, lease_servers
from anabasis.policy.listening import VXLAN, outer_services
from anabasis.policy.rules import RuleLine
from anabasis.policy.steering import Steering
from anabasis.policy.terms import Service, ServiceSpan, Span, Terms, holds_address, holds_service
from anabasis.policy.translation import AddressMap, ServiceMap, Translation

__all__ = [
    "BACK",
    "THERE",
    "VXLAN",
    "AddressMap",
    "AnswerList",
    "LeaseServer",
    "Policies",
    "Policy",
    "RuleLine",
    "Service",
    "ServiceMap",
    "ServiceSpan",
    "Span",
    "Steering",
    "Terms",
    "Translation",
    "build_policies",
    "holds_address",
    "holds_service",
    "lease_servers",
    "outer_services",
]
