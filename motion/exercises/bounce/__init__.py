"""The bouncing ball.

The ideal:

* ``ideal``: flights, from gravity and the speed kept at each contact;
* ``shapes``: stretch and squash, one volume;
* ``plan``: every drawing of a bounce; ``truth``: that as a perfectly measured track;
* ``feel``: the bounce of a brief; ``presets``: balls to start a brief from.

The reading:

* ``reading``: a track told as contacts, hops and rest;
* ``contacts``: where the ball turns, and whether a drawing was placed there as the contact;
* ``gravity``: how long and how high each hop is, and the one gravity of the clip;
* ``smooth``, ``halves``: where a drawing would lie between its own neighbours;
* ``patterns``, ``explain``: whole rises and falls, and one explanation for one fault.
"""
