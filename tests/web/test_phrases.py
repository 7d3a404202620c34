"""A marker's own phrases: learned with their numbers left open, offered where they fit, forgotten at will."""

from __future__ import annotations

from django.urls import reverse

from nettlecap.marking.decisions.phrases import learn, offer
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Phrase
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, hanging_clip


class Learned(SchoolTest):
    def learn(self, text: str, principle: str = "arcs", code: str = "", frames: tuple[int, int] = (7, 11)) -> None:
        learn(self.school.instructor, principle=principle, code=code, first=frames[0], last=frames[1], text=text)

    def offered(self, principle: str = "arcs", code: str = "", measure: str = "") -> list[str]:
        given = {"principle": principle, "code": code, "measure": measure}
        return [o.text for o in offer(self.school.instructor, first=20, last=20, **given)]

    def test_the_notes_own_frames_and_measure_are_left_open_and_filled_in_again(self) -> None:
        self.learn("Frames 7 to 11 sag by 12 px; look at frame 3.")
        self.assertEqual(Phrase.objects.get().text, "{frames} sag by {measure}; look at frame 3.")
        self.assertEqual(self.offered(measure="5 px"), ["Frame 20 sag by 5 px; look at frame 3."])

    def test_the_same_words_are_one_phrase_the_more_used_the_sooner_offered(self) -> None:
        self.learn("Mind the curve.")
        for _ in range(2):
            self.learn("Draw the arc first.")
        self.assertEqual(self.offered(), ["Draw the arc first.", "Mind the curve."])
        self.assertEqual(Phrase.objects.get(text="Draw the arc first.").times, 2)

    def test_those_of_the_same_fault_come_first_and_other_principles_stay_away(self) -> None:
        for _ in range(3):
            self.learn("Draw the arc first.")
        self.learn("It leans like a tired tree.", code="arc.leaning")
        self.learn("Touch the ground.", principle="contact")
        self.assertEqual(self.offered(code="arc.leaning"), ["It leans like a tired tree.", "Draw the arc first."])

    def test_one_word_is_no_phrase_and_nobody_gets_anothers(self) -> None:
        self.learn("Good.")
        self.learn("Mind the curve.")
        self.assertEqual(Phrase.objects.count(), 1)
        self.assertEqual(offer(self.school.assistant, principle="arcs", code="", first=1, last=1, measure=""), [])


class AtTheDesk(SchoolTest):
    def test_a_note_is_learned_and_offered_at_the_next_finding_of_its_kind(self) -> None:
        data, frame = hanging_clip()
        take: Take = self.school.take(data=data)
        finding = take.analysis.findings["findings"][0]
        self.as_person(self.school.instructor)
        words = f"Frame {frame} floats: set it down on the quay."
        values = {"first_frame": frame, "text": words, "principle": "contact", "code": "contact.gap"}
        self.client.post(reverse("note", args=[take.pk]), values)
        asked = {"key": finding_key(finding), "principle": "contact", "first_frame": "3", "last_frame": "3"}
        page = self.client.get(reverse("phrases", args=[take.pk]), asked)
        self.assertContains(page, "Frame 3 floats: set it down on the quay.")
        phrase = Phrase.objects.get()
        self.as_person(self.school.assistant)
        self.client.post(reverse("forget-phrase", args=[take.pk, phrase.pk]))
        self.assertTrue(Phrase.objects.exists())
        self.as_person(self.school.instructor)
        self.client.post(reverse("forget-phrase", args=[take.pk, phrase.pk]))
        self.assertFalse(Phrase.objects.exists())
