"""Who: conditions, populations, and why somebody is not counted."""
