"""Two markers, one measure."""
