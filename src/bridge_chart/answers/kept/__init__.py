"""What depends on the version alone, and whose turn it is."""
