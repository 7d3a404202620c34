"""From pictures to numbers: exposures, background, ground, and the shape that moves."""
