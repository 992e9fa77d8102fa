"""Boxes as YANG data (RFC 7951): the modules of the standards, and of our own what those do not know (`docs/yang`)."""
