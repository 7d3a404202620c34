"""Everything of one student: kept as one file by who may have it, and deleted without a trace."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.urls import reverse

from motion import sandbox
from nettlecap.classroom.models import Letter, Membership, Person, Role
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.hand_in import hand_in, try_out
from nettlecap.takes.models import Take
from nettlecap.takes.work import look
from tests.web.school import SchoolTest, files_below, hanging_clip, look_at_all, upload


class Keeping(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.data = hanging_clip()[0]
        self.take = self.school.take(data=self.data)
        self.as_person(self.school.instructor)
        key = "{code}:{first_frame}-{last_frame}".format(**self.take.analysis.findings["findings"][0])
        for action, values in (
            ("say", {"key": key, "verdict": "agreed"}),
            ("note", {"first_frame": "3", "last_frame": "4", "text": "Look here.", "principle": "arcs"}),
            ("draw-over", {"first_frame": "1", "tool": "line", "points": "[[9, 9], [90, 90]]"}),
        ):
            self.client.post(reverse(action, args=[self.take.pk]), values)

    def kept(self, person: Person) -> tuple[dict[str, Any], dict[str, bytes]]:
        self.as_person(person)
        answer = self.client.get(reverse("all-of-one", args=[self.school.student.pk]))
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        return json.loads(files.pop("person.json")), files

    def delete(self, person: Person, login: str = "ayumi"):  # type: ignore[no-untyped-def]
        self.as_person(person)
        return self.client.post(reverse("keep-or-delete", args=[self.school.student.pk]), {"login": login})

    def test_before_the_return_a_student_has_what_they_handed_in_and_no_marks(self) -> None:
        told, files = self.kept(self.school.student)
        self.assertEqual((told["schema"], told["login"]), ("nettlecap.person/1", "ayumi"))
        own = told["takes"][0]
        self.assertEqual(files[own["file"]], self.data)
        self.assertNotIn("marks", own)
        self.assertNotIn("findings", own)

    def test_after_it_the_marks_as_they_were_returned(self) -> None:
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        own = self.kept(self.school.student)[0]["takes"][0]
        self.assertEqual(len(own["findings"]), 1)
        self.assertEqual(own["marks"]["notes"][0]["text"], "Look here.")
        self.assertEqual(len(own["marks"]["drawn_over"]), 1)
        self.assertTrue(all(len(point) == 3 for point in own["marks"]["drawn_over"][0]["points"]))
        self.assertEqual(own["marks"]["most"], 50.0)
        self.assertLess(own["marks"]["total"], 50.0)

    def test_the_instructor_has_all_of_their_own_courses_and_no_own_checks(self) -> None:
        brief = self.school.set_brief(terms={"own_checks": 2})
        try_out(self.school.student, brief, [upload(self.data)])
        look_at_all()
        told = self.kept(self.school.instructor)[0]
        self.assertEqual([t["take"] for t in told["takes"]], ["take 1"])
        self.assertIn("marks", told["takes"][0])
        self.assertEqual(len(self.kept(self.school.student)[0]["takes"]), 2)

    def test_names_that_are_paths_stay_in_the_archive(self) -> None:
        Take.objects.update(file_name="..\\..\\evil.zip")
        name = next(iter(self.kept(self.school.instructor)[1]))
        self.assertTrue(name.startswith("takes/"))
        self.assertNotIn("..", name)

    def test_deleting_leaves_nothing_behind_and_nobody_elses_work_is_touched(self) -> None:
        other = self.school.take(self.school.classmate)
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        self.client.post(reverse("ask-feedback", args=[self.school.brief.pk]))
        look_at_all()
        self.assertRedirects(self.delete(self.school.instructor), "/")
        self.assertFalse(Person.objects.filter(username="ayumi").exists())
        self.assertFalse(MarkSheet.objects.exists())
        self.assertFalse(Letter.objects.filter(body__contains="Ayumi").exists())
        left = files_below(Path(settings.MEDIA_ROOT))
        self.assertEqual({f.split("/")[1] for f in left if f.startswith("drawings/")}, {str(other.pk)})
        self.assertEqual([f for f in left if f.startswith(("takes/", "parcels/"))], [other.file_path])

    def test_a_take_that_is_deleted_while_it_is_looked_at_leaves_no_drawings(self) -> None:
        take = hand_in(self.school.student, self.school.brief, [upload(self.data)])
        examine = sandbox.run

        def meanwhile(*arguments: Any, **more: Any) -> Any:
            outcome = examine(*arguments, **more)
            self.delete(self.school.instructor)
            return outcome

        with mock.patch.object(sandbox, "run", meanwhile):
            self.assertEqual(look.look_at(take.pk, 1), "nobody waits for it any more")
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])

    def test_a_file_that_a_classmate_handed_in_too_stays(self) -> None:
        other = self.school.take(self.school.classmate, self.data)
        self.delete(self.school.instructor)
        self.assertTrue(other.file.is_file())

    def test_the_login_is_written_to_be_sure(self) -> None:
        self.assertContains(self.delete(self.school.instructor, "ayumu"), "nothing was deleted", status_code=422)
        self.assertTrue(Take.objects.filter(student=self.school.student).exists())

    def test_who_may_not_delete_is_told_why(self) -> None:
        self.assertEqual(self.delete(self.school.student).status_code, 403)
        Membership.objects.create(course=self.school.other_course, person=self.school.student, role=Role.STUDENT)
        self.assertContains(self.delete(self.school.instructor), "in other courses too", status_code=403)
        Membership.objects.filter(course=self.school.other_course, person=self.school.student).update(role="assistant")
        keeper = Person.objects.create_user(username="keeper", name="Keeper", password="a-long-secret", is_staff=True)
        self.assertContains(self.delete(keeper), "also marks", status_code=403)
        self.assertTrue(Take.objects.filter(student=self.school.student).exists())

    def test_who_marked_before_is_not_deleted_and_keeps_every_clip(self) -> None:
        other = self.school.take(self.school.classmate)
        member = Membership.objects.get(person=self.school.student)
        Membership.objects.filter(pk=member.pk).update(role="assistant")
        self.as_person(self.school.student)
        self.client.post(reverse("points", args=[other.pk]), {"principle": "arcs", "points": "5"})
        Membership.objects.filter(pk=member.pk).update(role="student")
        self.assertContains(self.delete(self.school.instructor), "nothing was deleted", status_code=403)
        self.assertTrue(self.take.file.is_file())
        self.assertEqual(self.client.get(reverse("desk", args=[self.take.pk])).status_code, 200)

    def test_who_keeps_the_house_deletes_across_courses(self) -> None:
        Membership.objects.create(course=self.school.other_course, person=self.school.student, role=Role.STUDENT)
        keeper = Person.objects.create_user(username="keeper", name="Keeper", password="a-long-secret", is_staff=True)
        self.delete(keeper)
        self.assertFalse(Person.objects.filter(username="ayumi").exists())
