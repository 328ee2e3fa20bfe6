"""What each column is, and a row per result."""
