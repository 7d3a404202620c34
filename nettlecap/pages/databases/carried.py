"""A school that outgrows SQLite: a copy of its database, carried over into PostgreSQL row by row."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.apps import apps
from django.core.management import call_command
from django.core.management.color import no_style
from django.db import connection, connections, models, transaction

OTHER = "carried"
ROWS_AT_ONCE = 500


def take_over(copied: Path) -> None:
    """Put the rows of a copy in the place of all that is in the database: all of them, or none."""
    with _opened(copied):
        call_command("migrate", database=OTHER, verbosity=0)
        call_command("migrate", verbosity=0)
        kinds = list(apps.get_models(include_auto_created=True))
        with transaction.atomic():
            _empty(kinds)
            for kind in kinds:
                _carry(kind)
            _count_on(kinds)


@contextmanager
def _opened(copied: Path) -> Iterator[None]:
    """A second database beside our own, for as long as this takes."""
    plain = {**connections["default"].settings_dict, "OPTIONS": {}, "HOST": "", "PORT": "", "USER": "", "PASSWORD": ""}
    connections.databases[OTHER] = {**plain, "ENGINE": "django.db.backends.sqlite3", "NAME": str(copied)}
    try:
        yield
    finally:
        connections[OTHER].close()
        del connections[OTHER]
        del connections.databases[OTHER]


def _empty(kinds: list[type[models.Model]]) -> None:
    names = ", ".join(connection.ops.quote_name(kind._meta.db_table) for kind in kinds)  # noqa: SLF001
    with connection.cursor() as cursor:
        cursor.execute(f"TRUNCATE {names}")


def _carry(kind: type[models.Model]) -> None:
    """Each row as it is: times that are set at each saving stay as they were."""
    rows = kind._base_manager.using(OTHER).order_by("pk")  # noqa: SLF001
    for row in rows.iterator(chunk_size=ROWS_AT_ONCE):
        row.save_base(raw=True, using="default", force_insert=True)


def _count_on(kinds: list[type[models.Model]]) -> None:
    """Numbers of new rows go on after those that are there."""
    with connection.cursor() as cursor:
        for statement in connection.ops.sequence_reset_sql(no_style(), kinds):
            cursor.execute(statement)
