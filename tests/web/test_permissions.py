"""Every address, as everybody: who may open what, and that nothing is forgotten here."""

from __future__ import annotations

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Comparison
from nettlecap.takes.models import Arrival, Take
from nettlecap.training import drills
from nettlecap.training.models import SetDrill
from nettlecap.training.views import token_of
from nettlecap.urls import urlpatterns
from tests.web.school import SchoolTest, hanging_clip

# For each address: what the instructor, the assistant, the student, a classmate, a stranger and nobody get.
# 302 for nobody is the way to signing in; “own” marks what only the student whose take it is may do.
SEES = {
    #                 instr. assist. student classmate stranger nobody
    "start": (200, 200, 200, 200, 200, 302),
    "you": (200, 200, 200, 200, 200, 302),
    "change-password": (200, 200, 200, 200, 200, 302),
    "outbox": (403, 403, 403, 403, 403, 302),
    "house": (403, 403, 403, 403, 403, 302),
    "try-job-again": (403, 403, 403, 403, 403, 302),
    "let-job-go": (403, 403, 403, 403, 403, 302),
    "give-measure": (403, 403, 403, 403, 403, 302),
    "new-course": (200, 403, 403, 403, 200, 302),
    "edit-course": (200, 403, 403, 403, 404, 302),
    "people": (200, 403, 403, 403, 404, 302),
    "add-member": (422, 403, 403, 403, 404, 302),
    "change-member": (422, 403, 403, 403, 404, 302),
    "share": (302, 403, 403, 403, 404, 302),
    "read-roster": (422, 403, 403, 403, 404, 302),
    "take-roster": (422, 403, 403, 403, 404, 302),
    "invite": (422, 403, 403, 403, 404, 302),
    "close-invitation": (404, 403, 403, 403, 404, 302),
    "keep-or-delete": (200, 404, 200, 404, 404, 302),
    "all-of-one": (200, 404, 200, 404, 404, 302),
    "school": (200, 403, 403, 403, 404, 302),
    "sendings-state": (200, 403, 403, 403, 404, 302),
    "add-system": (403, 403, 403, 403, 404, 302),
    "link-course": (302, 403, 403, 403, 404, 302),
    "who-is-who": (409, 403, 403, 403, 404, 302),
    "send-marks": (409, 403, 403, 403, 404, 302),
    "two-markers": (200, 403, 404, 404, 404, 302),
    "comparison": (200, 200, 404, 404, 404, 302),
    "mark-blind": (302, 302, 404, 404, 404, 302),
    "end-comparison": (302, 403, 404, 404, 404, 302),
    "adopt": (409, 403, 404, 404, 404, 302),
    "files-of-class": (200, 200, 404, 404, 404, 302),
    "parcels-state": (200, 200, 404, 404, 404, 302),
    "ask-feedback": (422, 422, 404, 404, 404, 302),
    "ask-reel": (422, 422, 404, 404, 404, 302),
    "parcel": (404, 404, 404, 404, 404, 302),
    "class-wall": (200, 200, 404, 404, 404, 302),
    "grades-file": (200, 200, 404, 404, 404, 302),
    "show-clips": (200, 200, 404, 404, 404, 302),
    "new-brief": (200, 403, 403, 403, 404, 302),
    "brief": (200, 200, 200, 200, 404, 302),
    "edit-brief": (200, 403, 403, 403, 404, 302),
    "live-guide": (200, 403, 403, 403, 404, 302),
    "start-values": (200, 403, 403, 403, 404, 302),
    "import-brief": (422, 403, 403, 403, 404, 302),
    "publish-brief": (302, 403, 403, 403, 404, 302),
    "copy-brief": (302, 404, 404, 404, 404, 302),
    "export-brief": (200, 403, 403, 403, 404, 302),
    "guide-file": (200, 200, 200, 200, 404, 302),
    "course-letters": (200, 403, 403, 403, 404, 302),
    "arrival": (404, 404, 200, 404, 404, 302),
    "arrival-state": (404, 404, 200, 404, 404, 302),
    "put-arrival-aside": (404, 404, 302, 404, 404, 302),
    "handed-in-file": (200, 200, 200, 404, 404, 302),
    "look-at-again": (409, 409, 409, 404, 404, 302),
    "hand-in": (403, 403, 422, 422, 404, 302),
    "check-clip": (403, 403, 422, 422, 404, 302),
    "make-final": (404, 404, 409, 404, 404, 302),
    "look-through": (403, 403, 422, 422, 404, 302),
    "capture-stand": (403, 403, 200, 200, 404, 302),
    "stand-picture": (403, 403, 200, 200, 404, 302),
    "put-right": (404, 404, 409, 404, 404, 302),
    "throw-away": (404, 404, 404, 404, 404, 302),
    "place": (200, 200, 403, 404, 404, 302),
    "sound": (404, 404, 404, 404, 404, 302),
    "receipt": (200, 200, 200, 404, 404, 302),
    "take": (200, 200, 200, 404, 404, 302),
    "take-state": (200, 200, 200, 404, 404, 302),
    "drawing": (200, 200, 200, 404, 404, 302),
    "export-take": (200, 200, 200, 404, 404, 302),
    "findings-file": (200, 200, 403, 404, 404, 302),
    "track-table": (200, 200, 403, 404, 404, 302),
    "desk": (200, 200, 404, 404, 404, 302),
    "looked-at-again": (200, 200, 404, 404, 404, 302),
    "say": (200, 200, 404, 404, 404, 302),
    "note": (200, 200, 404, 404, 404, 302),
    "retime": (422, 422, 404, 404, 404, 302),
    "propose-timing": (422, 422, 404, 404, 404, 302),
    "proposed-sheet": (404, 404, 404, 404, 404, 302),
    "draw-over": (200, 200, 404, 404, 404, 302),
    "wipe": (200, 200, 404, 404, 404, 302),
    "beside-take": (404, 404, 404, 404, 404, 302),
    "beside-guide": (200, 200, 403, 404, 404, 302),
    "mended": (200, 200, 404, 404, 404, 302),
    "mended-picture": (404, 404, 404, 404, 404, 302),
    "phrases": (200, 200, 404, 404, 404, 302),
    "forget-phrase": (200, 200, 404, 404, 404, 302),
    "call": (422, 422, 404, 404, 404, 302),
    "first-look": (200, 200, 404, 404, 404, 302),
    "take-back": (200, 200, 404, 404, 404, 302),
    "take-back-note": (200, 200, 404, 404, 404, 302),
    "points": (200, 200, 404, 404, 404, 302),
    "remark": (204, 204, 404, 404, 404, 302),
    "return-marks": (200, 200, 404, 404, 404, 302),
    "history": (200, 200, 404, 404, 404, 302),
    "reopen": (409, 409, 404, 404, 404, 302),
    "marks-pdf": (404, 404, 404, 404, 404, 302),
    "tick": (403, 403, 409, 404, 404, 302),
    "answer": (403, 403, 409, 404, 404, 302),
    "returned": (404, 404, 404, 404, 404, 302),
    "training": (200, 200, 200, 200, 200, 302),
    "begin-drill": (422, 422, 422, 422, 422, 302),
    "begin-set-drill": (404, 404, 302, 302, 404, 302),
    "drill": (404, 404, 200, 404, 404, 302),
    "question": (404, 404, 200, 404, 404, 302),
    "answer-question": (404, 404, 409, 404, 404, 302),
    "question-pictures": (404, 404, 404, 404, 404, 302),
    "question-picture": (404, 404, 404, 404, 404, 302),
    "training-clip": (200, 200, 200, 200, 200, 302),
    "consent": (404, 404, 200, 404, 404, 302),
    "course-drills": (200, 200, 404, 404, 404, 302),
    "take-back-drill": (409, 403, 404, 404, 404, 302),
    "eyes-of-two": (200, 200, 404, 404, 404, 302),
    "checks": (200, 200, 200, 200, 200, 302),
    "checks-of": (200, 200, 200, 200, 200, 302),
    "clips": (200, 200, 200, 200, 200, 302),
    "next-clip": (302, 302, 302, 302, 302, 302),
}
POSTED = {
    "try-job-again",
    "let-job-go",
    "give-measure",
    "begin-drill",
    "begin-set-drill",
    "answer-question",
    "take-back-drill",
    "put-arrival-aside",
    "look-at-again",
    "add-member",
    "add-system",
    "adopt",
    "ask-feedback",
    "ask-reel",
    "change-member",
    "close-invitation",
    "end-comparison",
    "invite",
    "link-course",
    "read-roster",
    "send-marks",
    "share",
    "take-roster",
    "who-is-who",
    "tick",
    "answer",
    "draw-over",
    "wipe",
    "propose-timing",
    "retime",
    "forget-phrase",
    "call",
    "first-look",
    "take-back",
    "check-clip",
    "copy-brief",
    "hand-in",
    "import-brief",
    "live-guide",
    "look-through",
    "make-final",
    "note",
    "place",
    "points",
    "publish-brief",
    "put-right",
    "remark",
    "reopen",
    "return-marks",
    "say",
    "take-back-note",
    "throw-away",
}
OF_COURSES = (
    "course-drills",
    "class-wall",
    "new-brief",
    "live-guide",
    "start-values",
    "import-brief",
    "edit-course",
    "course-letters",
    "people",
    "add-member",
    "share",
    "read-roster",
    "take-roster",
    "invite",
    "school",
    "sendings-state",
    "add-system",
    "link-course",
    "who-is-who",
)
OF_BRIEFS = (
    "two-markers",
    "files-of-class",
    "parcels-state",
    "ask-feedback",
    "ask-reel",
    "send-marks",
    "brief",
    "edit-brief",
    "publish-brief",
    "copy-brief",
    "export-brief",
    "hand-in",
    "check-clip",
    "look-through",
    "capture-stand",
)
NO_JOB = "00000000-0000-0000-0000-000000000000"
OPEN_TO_ALL = {"sign-in", "sign-out", "forgotten", "set-password", "join", "school-keys"}


class EveryAddress(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=hanging_clip()[0])
        school = self.school
        self.comparison = Comparison.objects.create(
            brief=school.brief, one=school.instructor, other=school.assistant, opened_by=school.instructor
        )
        self.comparison.parts.create(take=self.take, marker=school.assistant)
        # Ended, so that the two are at the clip's own marks again.
        Comparison.objects.update(closed_at=timezone.now())
        self.arrival = Arrival.objects.create(
            brief=school.brief, student=school.student, file_bytes=9, state=Arrival.State.REFUSED, message="No clip."
        )
        self.set_drill = SetDrill.objects.create(
            course=school.course, title="Contacts", exercise="bounce", kinds=["spot"], created_by=school.instructor,
            due_at=timezone.now() + timedelta(days=1),
        )  # fmt: skip
        self.drill = drills.begin_set(school.student, self.set_drill)
        self.question = self.drill.questions.all()[0]
        self.key = finding_key(self.take.analysis.findings["findings"][0])

    def test_no_address_is_left_out(self) -> None:
        self.assertEqual({p.name for p in urlpatterns}, set(SEES) | OPEN_TO_ALL)

    def test_as_everybody(self) -> None:
        school = self.school
        people = (school.instructor, school.assistant, school.student, school.classmate, school.stranger, None)
        for name, statuses in SEES.items():
            for person, status in zip(people, statuses, strict=True):
                with self.subTest(name, person=str(person)):
                    self.client.logout()
                    if person is not None:
                        self.as_person(person)
                    self.assertEqual(self.open(name).status_code, status)
                    # Returned marks are reopened, so that one row does not change the next.
                    if name == "return-marks" and status == 200:
                        self.client.post(reverse("reopen", args=[self.take.pk]), {"reason": "Once more."})

    def test_after_the_return_the_student_and_markers_see_the_marks_and_nobody_else(self) -> None:
        school = self.school
        self.as_person(school.instructor)
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        for person, status in (
            (school.student, 200),
            (school.instructor, 200),
            (school.assistant, 200),
            (school.classmate, 404),
            (school.stranger, 404),
        ):
            with self.subTest(str(person)):
                self.as_person(person)
                self.assertEqual(self.client.get(reverse("returned", args=[self.take.pk])).status_code, status)

    def test_before_the_return_no_page_tells_the_student_what_was_found(self) -> None:
        self.as_person(self.school.student)
        for name in ("start", "brief", "take", "take-state"):
            with self.subTest(name):
                page = self.open(name).content.decode()
                self.assertNotIn("contact.gap", page)
                self.assertNotIn("hangs", page)

    def open(self, name: str):  # type: ignore[no-untyped-def]
        args = {
            **{name: [self.school.course.pk] for name in OF_COURSES},
            **{name: [self.school.brief.pk] for name in OF_BRIEFS},
            "grades-file": [self.school.course.pk, "csv"],
            "show-clips": [self.school.brief.pk, "contact.gap"],
            "guide-file": [self.school.brief.pk, "chart.svg"],
            "drawing": [self.take.pk, self.take.analysis.run, 1],
            "export-take": [self.take.pk, "clip.png"],
            "stand-picture": [self.school.brief.pk, 1, 0],
            "take-back-note": [self.take.pk, 1],
            "forget-phrase": [self.take.pk, 1],
            "wipe": [self.take.pk, 1],
            "answer": [self.take.pk, 1],
            "beside-take": [self.take.pk, self.take.pk],
            "start": [],
            **{key: [] for key in ("you", "change-password", "outbox", "new-course", "house")},
            **{key: [NO_JOB] for key in ("try-job-again", "let-job-go")},
            "give-measure": [self.school.course.pk],
            **{key: [self.school.student.pk] for key in ("keep-or-delete", "all-of-one")},
            **{key: [self.comparison.pk] for key in ("comparison", "mark-blind", "end-comparison")},
            **{key: [self.arrival.pk] for key in ("arrival", "arrival-state", "put-arrival-aside")},
            "adopt": [self.comparison.pk, self.take.pk],
            "change-member": [self.school.course.pk, self.school.student.memberships.get().pk],
            "close-invitation": [self.school.course.pk, 1],
            "parcel": [1],
            "training": [],
            "begin-drill": [],
            "begin-set-drill": [self.set_drill.pk],
            "take-back-drill": [self.set_drill.pk],
            "drill": [self.drill.pk],
            "question": [self.question.pk],
            "answer-question": [self.question.pk],
            "question-pictures": [self.question.pk, "shown"],
            "question-picture": [self.question.pk, "shown", 1],
            "training-clip": [token_of(self.question)],
            "eyes-of-two": [self.comparison.pk],
            "checks": [],
            "checks-of": ["bounce"],
            "clips": [],
            "proposed-sheet": [self.take.pk, "csv"],
            "mended-picture": [self.take.pk, "no-such", 0],
            "next-clip": [],
        }.get(name, [self.take.pk])
        url = reverse(name, args=args)
        values = {
            "say": {"key": self.key, "verdict": "agreed"},
            "answer-question": {"off": "1"},
            "place": {"place": '{"drawing": 1, "ellipse": null}'},
            "note": {"first_frame": "1", "text": "Good."},
            "reopen": {"reason": "Once more."},
            "draw-over": {"first_frame": "1", "tool": "line", "points": "[[9, 9], [90, 90]]"},
            "points": {"principle": "arcs", "points": "5"},
            "start-values": {"from": "own:marble"},
            "publish-brief": {"show": "1"},
            "copy-brief": {"course": self.school.course.pk},
        }.get(name, {})
        return self.client.post(url, values) if name in POSTED else self.client.get(url, values)


class WrongCourse(SchoolTest):
    def test_a_student_of_one_course_cannot_hand_in_to_another(self) -> None:
        outsider = self.school.person("lind", "student", self.school.other_course)
        self.as_person(outsider)
        answer = self.client.post(reverse("hand-in", args=[self.school.brief.pk]))
        self.assertEqual(answer.status_code, 404)
        self.assertFalse(Take.objects.exists())
