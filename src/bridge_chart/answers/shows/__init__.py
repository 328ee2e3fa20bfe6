"""One folder per show."""
