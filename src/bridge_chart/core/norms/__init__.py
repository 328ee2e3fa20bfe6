"""Standing against a national reference table."""
