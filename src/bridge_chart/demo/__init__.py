"""Merrow Sound: a made-up island district with planted facts, for demo, tests and bench."""
