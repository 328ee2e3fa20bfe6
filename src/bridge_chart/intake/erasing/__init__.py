"""Taking students out of the record for good."""
