"""What the desk's requests ask for."""

from __future__ import annotations

from django.shortcuts import get_object_or_404

from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Refusal
from nettlecap.marking.decisions import decide
from nettlecap.marking.sheets import as_seen_by, blind_of, seen_in
from nettlecap.takes.models import Take

MOST_DIGITS = 10


def on_desk(request: SignedIn, take_id: int) -> Take:
    """A take that this person may mark; Http404 for others, Conflict where its marks were changed unseen."""
    takes = Take.objects.markable_by(request.user).select_related("brief__course", "student", "analysis")
    take = get_object_or_404(takes, pk=take_id)
    if request.method == "POST" and "X-Marks-Seen" in request.headers:
        decide.refuse_unseen(request.user, take, request.headers["X-Marks-Seen"])
    take.seen_in_part = blind_of(request.user, take)
    return seen_in(take.seen_in_part, take)


def visible(request: SignedIn, take_id: int) -> Take:
    """A take that this person may see."""
    takes = Take.objects.visible_to(request.user).select_related("brief__course", "student", "analysis")
    return as_seen_by(request.user, get_object_or_404(takes, pk=take_id))


def whole(request: SignedIn, name: str, default: int | None = None) -> int:
    """A whole number from a form, or the default where it is empty."""
    text = request.POST.get(name, "").strip()
    if not text and default is not None:
        return default
    given = small_number(text)
    if given is None:
        raise Refusal("Give the frames as whole numbers.")
    return given


def small_number(text: str) -> int | None:
    """A whole number that a page or a row may have; None for anything else."""
    return int(text) if text.isdecimal() and len(text) < MOST_DIGITS else None


def signed(request: SignedIn, name: str) -> int:
    """A whole number from a form, which may be below nought; 1 where there is none."""
    text = request.POST.get(name, "1").strip()
    size = small_number(text.removeprefix("-"))
    if size is None:
        raise Refusal("Give a whole number.")
    return -size if text.startswith("-") else size


def number(request: SignedIn, name: str = "points") -> float | None:
    """A number from a form, None where it is empty."""
    text = request.POST.get(name, "").strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise Refusal(f"Give the {name} as a number.") from None
