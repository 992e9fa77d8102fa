"""Where designs are kept: PostgreSQL by SQLAlchemy 2, migrated by Alembic. Knows the document and nothing above it."""

from anabasis.store.campaigns import CampaignRecord, Campaigns, Case, Subject
from anabasis.store.designs import Branch, Draft, EditRecord, Store, Summary
from anabasis.store.engine import connect, migrate
from anabasis.store.history import Deed, History, Revision
from anabasis.store.notices import Listener, Notice
from anabasis.store.people import Bearer, Entered, People, Person, Signed
from anabasis.store.sheets import SheetRecord, Sheets
from anabasis.store.stamps import stamp_of
from anabasis.store.surveys import SurveyRecord, Surveys
from anabasis.store.tables import ROLES
from anabasis.store.tokens import Token, Tokens

__all__ = [
    "ROLES",
    "Bearer",
    "Branch",
    "CampaignRecord",
    "Campaigns",
    "Case",
    "Deed",
    "Draft",
    "EditRecord",
    "Entered",
    "History",
    "Listener",
    "Notice",
    "People",
    "Person",
    "Revision",
    "SheetRecord",
    "Sheets",
    "Signed",
    "Store",
    "Subject",
    "Summary",
    "SurveyRecord",
    "Surveys",
    "Token",
    "Tokens",
    "connect",
    "migrate",
    "stamp_of",
]
