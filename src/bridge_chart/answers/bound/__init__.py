"""A question with everything found: the values that each later step takes."""
