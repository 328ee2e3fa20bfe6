"""What a set of values looks like: means, spreads, quantiles, shares, distributions."""
