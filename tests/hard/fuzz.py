"""The fuzz test of every post, for as long as it is told, with a seed of its own each round."""

from __future__ import annotations

import os
import time

from nettlecap.urls import urlpatterns
from tests.web import test_fuzz


class Long(test_fuzz.Fuzz):
    test_nor_is_a_value_in_the_one_field_that_an_address_asks_for = None  # type: ignore[assignment]
    test_nor_is_a_hostile_question = None  # type: ignore[assignment]

    def test_no_post_is_an_error_of_ours(self) -> None:
        until, posts, seed = time.monotonic() + float(os.environ.get("FUZZ_SECONDS", "60")), 0, 1000
        while time.monotonic() < until:
            seed += 1
            self.rng.seed(seed)
            pattern = self.rng.choice([p for p in urlpatterns if p.name not in test_fuzz.LEFT_OUT])
            for person in self.people():
                with self.subTest(pattern.name, seed=seed):
                    self.send(person, self.url_of(pattern), self.values())
                    posts += 1
        print(f"posts: {posts}, seeds 1001 to {seed}")
