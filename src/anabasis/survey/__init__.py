"""Asking a living site about itself by open protocols, reading only (docs/formats.md, "Survey")."""

from anabasis.survey.asking import Survey, run
from anabasis.survey.targets import Credentials, from_environment, parse_targets

__all__ = ["Credentials", "Survey", "from_environment", "parse_targets", "run"]
