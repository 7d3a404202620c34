"""A marking night on this machine: a school's students hand in while its markers mark, and processes are killed."""
