"""Students outside a group who are like those in it."""
