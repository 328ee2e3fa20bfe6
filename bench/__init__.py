"""Benchmarks: each prints a ratio to a named alternative in the same run."""
