"""An account of every check, for those who mark: what it looks at, a small picture, how far off is too far.

* ``entries``: what the checks themselves say, from their docstrings;
* ``example``, and a package an exercise: a motion as it belongs and one with the fault, and what is told of it;
* ``picture``: the two side by side;
* ``pages``: all of it as a document.
"""
