"""Copying the database as it is at one moment, and putting such a copy in its place: one module an engine."""
