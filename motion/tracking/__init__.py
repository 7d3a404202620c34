"""From pictures to numbers: exposures, background, ground, and the shape that moves."""

import cv2

# A clip is many passes over small pictures: handing them to a second thread costs more than it saves, and the worker
# beside this one wants that core.
cv2.setNumThreads(1)
