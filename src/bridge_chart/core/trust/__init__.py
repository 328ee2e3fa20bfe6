"""What may be said: verdicts, chance, practical size, missing data."""
