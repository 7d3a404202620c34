"""What a school of several machines rests on: ``make test`` runs these on SQLite and on PostgreSQL."""
