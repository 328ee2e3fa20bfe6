"""Inside one test: questions, strands, options, error of measurement."""
