"""Tunnels."""
