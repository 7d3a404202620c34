"""Small simulated stand-ins for what an installation has around it, for trying things out and for the tests."""
