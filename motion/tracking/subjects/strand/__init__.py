"""What hangs in parts, followed through a clip: chains of stiff links, and tails that bend.

* ``topology``: from the root to the tip through a drawing's ink; ``middle``: its middle line to a part of a pixel;
* ``weight``: a weight at its end; ``root``: the point from which it hangs; ``links``: where a chain's joints are;
* ``through``: all of that, clip by clip.
"""
