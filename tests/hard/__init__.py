"""Hard use: fuzz, kills and bursts against the application as it is served. ``make test-hard``; not part of CI."""
