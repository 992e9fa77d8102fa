"""Asking a living site about itself by open protocols, reading only (docs/formats.md, "Survey")."""

from anabasis.survey.asking import Survey, run
from anabasis.survey.targets import Credentials, Target, from_environment, parse_targets

__all__ = ["Credentials", "Survey", "Target", "from_environment", "parse_targets", "run"]
