"""The checks, one module a principle. Each takes a Scene and gives findings."""
