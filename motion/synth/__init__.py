"""Clips with known truth: a motion, drawn in a look, with chosen faults. For the demo, the drills and the tests."""
