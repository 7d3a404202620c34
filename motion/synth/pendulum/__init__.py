"""Draws pendulums, clean or with chosen faults: for the demo, the account of checks and the tests."""
