"""How far two groups lie apart, what of it survives another scale, and what it is made of."""
