"""What hangs in parts, followed through a clip: chains of stiff links, and tails that bend.

* ``rooted``: the background without it; ``seal``: outlines closed near its root; ``base``: what carries it;
* ``topology``: from the root to the tip through a drawing's ink; ``middle``: its middle line to a part of a pixel;
* ``weight``: a weight at its end; ``root``: the point from which it hangs; ``drawing``: one drawing from ink to line;
* ``breaks``, ``seams``: where a chain's joints are, by how it turns and by what is drawn; ``links``: where they lie in
  each drawing; ``apart``: links that have come apart; ``chain``: all of that;
* ``through``: every drawing of a clip.
"""
