"""What an older version wrote is still there."""

from __future__ import annotations

import sys
from unittest import mock

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase

BEFORE = [("classroom", "0001_initial"), ("takes", "0001_initial"), ("marking", "0001_initial")]


class FromTheFirstVersion(TransactionTestCase):
    def migrate(self, targets: list[tuple[str, str]]):  # type: ignore[no-untyped-def]
        executor = MigrationExecutor(connection)
        executor.migrate(targets)
        return MigrationExecutor(connection).loader.project_state(targets).apps

    def tearDown(self) -> None:
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())

    def test_points_move_into_the_brief_file_and_briefs_stay_published(self) -> None:
        apps = self.migrate(BEFORE)
        person = apps.get_model("classroom", "Person").objects.create(username="orla", name="Orla")
        course = apps.get_model("classroom", "Course").objects.create(name="First Motion")
        points = {"spacing": 10.0, "arcs": 5.0, "squash_stretch": 0.0, "contact": 15.0, "timing": 2.5}
        apps.get_model("classroom", "Brief").objects.create(
            course=course,
            title="A float",
            parameters={"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 25},
            points=points,
            due_at="2026-11-20T18:00Z",
            created_by=person,
        )
        self.migrate(MigrationExecutor(connection).loader.graph.leaf_nodes())
        from nettlecap.classroom.models import Brief

        brief = Brief.objects.get()
        self.assertEqual((brief.points, brief.core.fps, brief.published), (points, 25.0, True))
        older = self.migrate(BEFORE).get_model("classroom", "Brief").objects.get()
        self.assertEqual((older.points, set(older.parameters)), (points, {"schema", "exercise", "fps"}))

    def test_faults_of_what_was_looked_at_are_told_though_the_code_that_told_them_is_gone(self) -> None:
        before = [("classroom", "0002_publish_and_points"), ("takes", "0003_put_right_and_placed")]
        apps = self.migrate(before)
        person = apps.get_model("classroom", "Person").objects.create(username="orla", name="Orla")
        course = apps.get_model("classroom", "Course").objects.create(name="First Motion")
        brief = apps.get_model("classroom", "Brief").objects.create(
            course=course, title="A float", parameters={}, due_at="2026-11-20T18:00Z", created_by=person
        )
        take = apps.get_model("takes", "Take").objects.create(
            brief=brief, student=person, number=1, file_name="a.zip", file_path="a", file_bytes=1, frames=20,
            pictures=20, width=480, height=270,
        )  # fmt: skip
        finding = {"code": "contact.gap", "principle": "contact", "severity": "strong", "first_frame": 9}
        finding |= {"last_frame": 9, "measured": 6.0, "expected": 0.0, "tolerance": 2.4, "part": "far foot"}
        apps.get_model("takes", "Analysis").objects.create(take=take, findings={"findings": [finding]})
        with mock.patch.dict(sys.modules, {"nettlecap.takes.faults": None}):
            apps = self.migrate([("classroom", "0002_publish_and_points"), ("takes", "0004_faults")])
        told = {k: finding[k] for k in ("code", "principle", "severity", "first_frame", "last_frame")}
        self.assertEqual(apps.get_model("takes", "Analysis").objects.get().faults, [{**told, "times": 2.5}])
        apps = self.migrate(MigrationExecutor(connection).loader.graph.leaf_nodes())
        now = apps.get_model("takes", "Analysis").objects.get().faults
        self.assertEqual(now, [{**told, "times": 2.5, "part": "far foot"}])
