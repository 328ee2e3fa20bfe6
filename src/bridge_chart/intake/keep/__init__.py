"""Keeping, in one transaction, and taking back."""
