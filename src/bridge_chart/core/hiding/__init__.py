"""Hiding small numbers so that they cannot be worked out from what is shown."""
