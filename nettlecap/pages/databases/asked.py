"""What is asked of a copy of the database."""

FILES = (
    "SELECT file_path FROM takes_take UNION SELECT sound_path FROM takes_take "
    "UNION SELECT file_path FROM takes_arrival UNION SELECT sound_path FROM takes_arrival"
)
"""The hand-ins of which it tells, as paths below the media folder."""
