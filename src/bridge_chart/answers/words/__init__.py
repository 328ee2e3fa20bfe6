"""What an answer says, how it was worked out, and what makes it unsound."""
