"""What somebody says of a file."""
