"""The pendulum: a weight on a line that swings around a fixed pivot.

The ideal:

* ``ideal``: the swing by gravity, slowed as it goes; ``plan``: every drawing; ``truth``: that as perfectly measured;
* ``feel``: the swing of a brief; ``presets``, ``words``, ``sheet``, ``handles``: to start from, told, drawn, dragged.

The reading:

* ``follow``: line, weight and pivot in the pictures;
* ``reading``: a track told as steps, extremes and swings;
* ``smooth``: where a drawing would lie between its own neighbours;
* ``scene``: what every check needs; ``checks``: the faults.
"""
