"""Marks that go back: read, printed, ticked off, compared with the take before."""
