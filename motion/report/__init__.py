"""The findings file, ``nettlecap.findings/1``.

* ``file``: written, and its track read back so that the checks can run again;
* ``report``: what it tells, typed, for all that show it;
* ``upgrade``: files of older versions.
"""
