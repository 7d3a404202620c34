"""What the desk shows of a take, and what is done there with the picture."""
