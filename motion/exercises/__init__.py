"""The exercises: what is asked, how it would move ideally, how a track is read, and which checks apply."""
