"""Shared value types: what is asked, what is answered, who asks, what went wrong."""
