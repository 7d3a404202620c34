"""What nature gives."""

GRAVITY = 9.81
"""Of the earth, m/s²."""
