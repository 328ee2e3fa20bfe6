"""The command line: everything that a screen does, from the same functions."""
