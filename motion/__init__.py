"""The core of Nettlecap: from handed-in pictures to measured drawings to findings.

Pure computation. It knows no web framework, no database and no page.

Conventions, held everywhere in this package:

* Frames and drawings are counted from 1. A frame is one tick of the clip's rate; a drawing is one
  distinct picture and may be exposed for several frames, or come back later under its number.
* Pixel positions: x to the right, y down, in float pixels; the centre of the top left pixel is (0, 0).
* Angles in degrees, counter-clockwise as seen on screen, 0 along +x; an axis lies in (-90, 90].
* Times are in frames, lengths in px, unless a name ends in another unit (``_m``, ``_d``, ``_s``).
* Heights point up, from the ground.
* A value that could not be measured is ``None``; nothing is ever guessed in its place.
"""
