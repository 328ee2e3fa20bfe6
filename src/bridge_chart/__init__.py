"""Bridge Chart: merge assessment results with rosters, and compare them fairly."""

__version__ = "0.1.0"
