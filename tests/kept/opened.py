"""Open every page of an installation, with the person whose it is: ``python -m tests.kept.opened FOLDER``.

Prints what came of each, and what is stored, as JSON.
"""

from __future__ import annotations

import json
import os
import sys
from typing import Any

os.environ["NETTLECAP_DATA"] = sys.argv[1]
os.environ["DJANGO_SETTINGS_MODULE"] = "tests.settings"

import django

django.setup()

from django.conf import settings  # noqa: E402
from django.test import Client  # noqa: E402
from django.urls import reverse  # noqa: E402

from nettlecap.classroom.models import Brief, Course, Person  # noqa: E402
from nettlecap.marking import models as marking  # noqa: E402
from nettlecap.takes.models import Take  # noqa: E402


def main() -> None:
    """All pages, then all that is stored."""
    settings.ALLOWED_HOSTS = ["testserver"]
    told = {path: answer for login, paths in pages().items() for path, answer in opened(login, paths)}
    print(json.dumps({"pages": told, "stored": stored()}))


def pages() -> dict[str, list[str]]:
    """The pages by who opens them."""
    course, brief = Course.objects.get(name="First Motion"), Brief.objects.get()
    of_class = [reverse(name, args=[course.pk]) for name in ("class-wall", "people", "school", "new-brief")]
    of_brief = [reverse(name, args=[brief.pk]) for name in ("brief", "edit-brief", "two-markers", "files-of-class")]
    comparisons = [reverse("comparison", args=[c.pk]) for c in marking.Comparison.objects.all()]
    found: dict[str, list[str]] = {
        "orla": ["/", "/clips?state=all", reverse("grades-file", args=[course.pk, "csv"]), *of_class, *of_brief],
        "bram": ["/"],
    }
    found["orla"] += [reverse("export-brief", args=[brief.pk]), reverse("guide-file", args=[brief.pk, "sheet.svg"])]
    found["orla"] += comparisons
    for take in Take._base_manager.select_related("analysis", "student"):
        own = found.setdefault(take.student.username, ["/", reverse("brief", args=[brief.pk])])
        own.append(reverse("take", args=[take.pk]))
        if take.trial or take.analysis.state == "failed":
            continue
        returned = marking.MarkSheet.objects.filter(take=take, returned_at__isnull=False).exists()
        names = ("desk", "history", "findings-file", "track-table", "mended") if returned else ("desk", "findings-file")
        found["orla"] += [reverse(name, args=[take.pk]) for name in names]
        if returned:
            own.append(reverse("returned", args=[take.pk]))
    return found


def opened(login: str, paths: list[str]) -> list[tuple[str, int]]:
    """Each path with the status that it gives to a person."""
    client = Client(raise_request_exception=False)
    client.force_login(Person.objects.get(username=login))
    return [(path, client.get(path, follow=True).status_code) for path in paths]


def stored() -> dict[str, Any]:
    """What people entered, in few words."""
    placed = [t.placed for t in Take._base_manager.order_by("pk") if t.placed]
    return {
        "decisions": [[d.key, d.verdict] for d in marking.Decision.objects.order_by("pk")],
        "notes": [[n.text, n.answer] for n in marking.Note.objects.order_by("pk")],
        "strokes": marking.DrawnStroke.objects.count(),
        "proposals": [p.note for p in marking.Proposal.objects.all()],
        "ticked": [r.ticked for r in marking.Reading.objects.all()],
        "remarks": [s.remark for s in marking.MarkSheet.objects.order_by("pk") if s.remark],
        "undo": sum(len(s.undoable) for s in marking.MarkSheet.objects.all()),
        "placed": len(placed),
        "takes": Take._base_manager.count(),
    }


if __name__ == "__main__":
    main()
