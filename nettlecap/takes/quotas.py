"""What a course may take up: bytes that are kept, and clips on their way. What one person takes up has an end too.

The school gives each course its measure (``Course.most_bytes`` and ``most_waiting``; without one the settings'), so
that one course cannot fill the disk or the queue of all. No student takes up more than a share of it, so that one
cannot keep the others out.
"""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db.models import Q, Sum
from django.template.defaultfilters import filesizeformat

from nettlecap.classroom.models import Course, Person
from nettlecap.classroom.pace import Pace
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.urgency import waiting_in

SHARE = 0.1
"""Of a course's bytes one student may take up so much."""
UPLOADS = Pace("upload", settings.UPLOADS_AN_HOUR, timedelta(hours=1), "sent clips")
CHECKS = Pace("check", settings.CHECKS_AN_HOUR, timedelta(hours=1), "run the checks")


def most_bytes(course: Course) -> int:
    return course.most_bytes or int(settings.COURSE_BYTES)


def most_waiting(course: Course) -> int:
    return course.most_waiting or int(settings.COURSE_WAITING)


def taken_up(course: Course, student: Person | None = None) -> int:
    """How many bytes are kept of a course, or of one student in it: takes, drafts, and what was not read yet."""
    whose = Q(student=student) if student else Q()
    takes = Take.everything.filter(whose, brief__course=course).aggregate(sum=Sum("file_bytes"))["sum"]
    unread = Arrival.objects.unread().filter(whose, brief__course=course).aggregate(sum=Sum("file_bytes"))["sum"]
    return (takes or 0) + (unread or 0)


def require_quota(student: Person, course: Course, more: int = 0) -> None:
    """Raises Conflict where enough of the course is on its way, Refusal where ``more`` bytes are too many for it."""
    if waiting_in(course.pk) >= most_waiting(course):
        raise Conflict(
            f"{most_waiting(course)} clips of this course are waiting to be looked at. Hand it in again in a while; "
            "nothing was handed in."
        )
    most = most_bytes(course)
    if taken_up(course, student) + more > SHARE * most:
        raise Refusal(
            f"Your clips in this course would take up more than {filesizeformat(int(SHARE * most))}. Throw away what "
            "you do not need, or hand in smaller pictures; nothing was handed in."
        )
    if taken_up(course) + more > most:
        raise Refusal(
            f"This course has used up its {filesizeformat(most)} for clips. Tell your instructor; nothing was handed "
            "in."
        )
