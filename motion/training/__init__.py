"""Training the eye: clips whose faults are planted, and how small a fault a person sees."""
