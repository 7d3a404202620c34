"""The bouncing ball.

* ``ideal``: the motion itself, from gravity and the speed kept at each contact;
* ``reading``: a track told as contacts, hops and rest;
* ``contacts``: where the ball turns, and whether a drawing was placed there as the contact;
* ``smooth``: where a drawing would lie between its own neighbours.
"""
