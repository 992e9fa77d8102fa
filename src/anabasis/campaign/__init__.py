"""Campaigns: what many failures and many mistakes would do, judged by harm; on one machine or on many."""

from anabasis.campaign.cases import cases_of, check_sizes, fault_named
from anabasis.campaign.defence import Defence, Opened
from anabasis.campaign.files import Rows, as_csv, read_row
from anabasis.campaign.harm import Harm, harm_of
from anabasis.campaign.judging import Row, digest_of
from anabasis.campaign.mistakes import Mistake, mistakes_of
from anabasis.campaign.running import Progress, run

__all__ = [
    "Defence",
    "Harm",
    "Mistake",
    "Opened",
    "Progress",
    "Row",
    "Rows",
    "as_csv",
    "cases_of",
    "check_sizes",
    "digest_of",
    "fault_named",
    "harm_of",
    "mistakes_of",
    "read_row",
    "run",
]
