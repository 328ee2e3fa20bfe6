"""From a Question and a scope to an Answer: one file per kind of question."""
