"""How far a group lies from what its students' starts would give."""
