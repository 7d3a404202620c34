"""What an older version wrote is still there."""

from __future__ import annotations

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
