"""What students who started alike reach: bands and expected outcomes."""
