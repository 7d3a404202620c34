"""What a marker decides, and taking it back."""
