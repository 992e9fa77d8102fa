"""Campaigns: what many failures and many mistakes would do, judged by harm; on one machine or on many."""

from anabasis.campaign.cases import cases_of, check_sizes
from anabasis.campaign.files import Rows
from anabasis.campaign.judging import Row, digest_of
from anabasis.campaign.running import Progress, run

__all__ = ["Progress", "Row", "Rows", "cases_of", "check_sizes", "digest_of", "run"]
