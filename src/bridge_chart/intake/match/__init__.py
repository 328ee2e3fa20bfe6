"""Whose row it is."""
