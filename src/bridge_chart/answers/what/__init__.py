"""What is looked at: quantities, one figure per student."""
