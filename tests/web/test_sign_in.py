"""Signing in is slowed down, never shut: who guesses waits, and nobody is kept out by what others do."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from django.test import Client, override_settings
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom import sign_in
from nettlecap.classroom.models import SignInTries
from tests.web.school import SchoolTest

PROXY, SCHOOL, THIEF = "10.0.0.1", "198.51.100.1", "203.0.113.66"


@override_settings(TRUSTED_PROXIES=[PROXY])
class Guessing(SchoolTest):
    def sign_in(self, client: Client, login: str, password: str, address: str = SCHOOL, **more: str) -> int:
        told = {"REMOTE_ADDR": PROXY, "HTTP_X_FORWARDED_FOR": address, **more}
        return client.post(reverse("sign-in"), {"username": login, "password": password}, **told).status_code

    def guess(self, times: int, address: str = THIEF) -> list[int]:
        return [self.sign_in(Client(), "orla", f"wrong {n}", address) for n in range(times)]

    def test_a_few_slips_cost_nothing_and_then_each_try_waits_longer(self) -> None:
        self.assertEqual(self.guess(6), [200] * 6)
        self.assertEqual(self.guess(2), [429, 429])
        tries = SignInTries.objects.filter(failures__gte=6)
        waits = []
        for _ in range(4):
            count = next(c for c in sign_in.counts_for(self.request(THIEF), "orla") if c.key.startswith("place"))
            waits.append(sign_in.wait([count]))
            tries.update(last_at=timezone.now() - timedelta(seconds=waits[-1] + 1))
            self.guess(1)
        self.assertEqual(waits, sorted(waits))
        self.assertGreaterEqual(waits[-1], 4 * waits[0])

    def request(self, address: str):  # type: ignore[no-untyped-def]
        return mock.Mock(META={"REMOTE_ADDR": address}, COOKIES={})

    def test_the_right_password_waits_too_so_that_waiting_tells_nothing(self) -> None:
        self.guess(6)
        self.assertEqual(self.sign_in(Client(), "orla", "a-long-secret", THIEF), 429)

    def test_nobody_elsewhere_is_kept_out_nor_by_made_up_addresses(self) -> None:
        self.guess(9)
        self.assertEqual(self.sign_in(Client(), "orla", "a-long-secret", SCHOOL), 302)
        # What the thief names as their own address before the proxy adds the true one counts for nothing.
        for n in range(9):
            self.sign_in(Client(), "ayumi", "wrong", f"1.2.3.{n}, {THIEF}")
        self.assertEqual(self.sign_in(Client(), "ayumi", "a-long-secret", SCHOOL), 302)
        self.assertEqual(self.sign_in(Client(), "ayumi", "a-long-secret", f"9.9.9.9, {THIEF}"), 429)

    def test_a_device_that_is_known_is_not_kept_out_even_from_the_same_address(self) -> None:
        known = Client()
        self.assertEqual(self.sign_in(known, "orla", "a-long-secret", SCHOOL), 302)
        known.post(reverse("sign-out"))
        self.guess(9, SCHOOL)
        self.assertEqual(self.sign_in(Client(), "orla", "a-long-secret", SCHOOL), 429)
        self.assertEqual(self.sign_in(known, "orla", "a-long-secret", SCHOOL), 302)

    def test_a_known_device_is_slowed_down_by_its_own_failures_and_known_for_its_own_people(self) -> None:
        known = Client()
        self.sign_in(known, "orla", "a-long-secret")
        known.post(reverse("sign-out"))
        self.assertIn(429, [self.sign_in(known, "orla", "wrong") for _ in range(10)])
        self.guess(9, SCHOOL)
        for _ in range(9):
            self.sign_in(Client(), "bram", "wrong", SCHOOL)
        self.assertEqual(self.sign_in(known, "bram", "a-long-secret", SCHOOL), 429)

    def test_a_new_password_makes_every_device_new(self) -> None:
        known = Client()
        self.sign_in(known, "orla", "a-long-secret")
        self.school.instructor.set_password("harbour-and-quay")
        self.school.instructor.save()
        request = mock.Mock(META={}, COOKIES={k: v.value for k, v in known.cookies.items()})
        self.assertEqual(sign_in.known_device(request, "orla"), "")
        request.COOKIES[sign_in.COOKIE] += "x"
        self.assertEqual(sign_in.known_device(request, "orla"), "")

    def test_guessing_from_everywhere_is_slow_as_well_but_never_long(self) -> None:
        for n in range(70):
            self.sign_in(Client(), "orla", "wrong", f"203.0.113.{n}")
        answer = Client().post(
            reverse("sign-in"), {"username": "orla", "password": "a-long-secret"}, REMOTE_ADDR="192.0.2.200"
        )
        self.assertEqual(answer.status_code, 429)
        self.assertLessEqual(int(answer["Retry-After"]), 20)
        self.assertContains(answer, "nobody is shut out", status_code=429)

    def test_nothing_that_is_counted_tells_who_or_where(self) -> None:
        self.guess(3)
        told = str(list(SignInTries.objects.values()))
        self.assertNotIn("orla", told)
        self.assertNotIn(THIEF, told)
