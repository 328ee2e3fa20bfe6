"""The record in PostgreSQL, its versions, and the snapshots made from it."""
