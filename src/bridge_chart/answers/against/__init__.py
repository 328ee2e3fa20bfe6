"""Yardsticks: what a quantity is held against."""
