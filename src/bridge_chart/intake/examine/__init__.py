"""What a file holds: examined, nothing kept."""
