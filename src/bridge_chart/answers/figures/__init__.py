"""From students to figures of groups."""
