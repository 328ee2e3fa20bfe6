"""Who may do what, and see whom. The one place of these rules."""
