"""Knowing how an installation is doing: lines of a log, numbers for a scraper, a page, and checks before it starts."""
