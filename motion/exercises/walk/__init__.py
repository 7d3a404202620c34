"""The walk: a body on two legs, in place or across.

* ``ideal``: the gait as geometry; ``plan``, ``feel``: a brief's own walk, drawing by drawing;
* ``follow``: from pictures to landmarks; ``joints``: what is placed by hand, and sides that were swapped;
* ``reading``: steps, supports, belt and ground of a track; ``scene``: what all checks look at; ``checks``;
* ``told``, ``measures``, ``words``, ``sheet``, ``handles``: how it is told, charted, drawn and dragged.
"""
