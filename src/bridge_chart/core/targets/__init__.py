"""Standing against targets, what it would take to reach a figure, and trying a change."""
