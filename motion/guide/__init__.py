"""The guide to a brief: its ideal motion drawn out, for students to put under their drawings.

* ``guide``: the motion with its keys, moves and drawing order;
* ``words``: what the feel means, in plain words;
* ``sheet``: the guide sheet as SVG, ``chart``: the timing chart, ``strip``: the spacing strip;
* ``stills``: the same as PNG, one a frame.
"""
