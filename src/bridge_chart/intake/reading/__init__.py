"""From a file's bytes to one table of texts with the file's own line numbers."""
