"""How often whole answers claim what is not so: districts whose truth is known, asked for real."""
