"""From an Answer to files. Asks nothing of the database."""
