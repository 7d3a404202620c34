"""Writing clips in open formats: numbered pictures with their exposure sheet, animations, video.

What is written is ``Drawn``: pictures in order, each with the frames for which it is exposed.
"""
