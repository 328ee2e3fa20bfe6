"""The way of a question: read, bound, answered, wrapped."""
