"""The tests. Property tests try the same cases each time; with NETTLECAP_FUZZ=1 they try new ones."""

import os

from hypothesis import settings

# The encoder of one of the test videos is talkative.
os.environ.setdefault("SVT_LOG", "1")

settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("new", deadline=None)
settings.load_profile("new" if os.environ.get("NETTLECAP_FUZZ") else "steady")
