"""Splits: which rows there are, and who is in each."""
