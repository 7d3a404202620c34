"""The generator of walks: figures drawn in any look, and the faults that students make."""
