"""From files to kept batches: read, columns, match, check, keep."""
