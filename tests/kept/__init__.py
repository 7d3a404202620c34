"""An installation as an older version left it, and how it was made. What once was kept is never made anew."""
