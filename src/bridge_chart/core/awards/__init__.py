"""Awards earned by credits: who has met a rule, who is on course, what is missing."""
