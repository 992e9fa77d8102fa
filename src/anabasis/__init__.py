"""Anabasis: from VLANs and cables to who may reach whom, and why."""

__version__ = "0.1.0"
