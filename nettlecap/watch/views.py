"""The page for who keeps the installation, and the one that stands where something went wrong."""

from __future__ import annotations

import sys

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template import loader
from django.views.decorators.http import require_POST

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import NotAllowed
from nettlecap.guard.storage import trouble_of
from nettlecap.watch import again, measures
from nettlecap.watch.state import state


def house(request: SignedIn) -> HttpResponse:
    """How the installation is doing."""
    if not policy.keeps_house(request.user):
        raise NotAllowed("Only who keeps this installation sees how it is doing.")
    template = "watch/_state.html" if getattr(request, "htmx", False) else "watch/house.html"
    return render(request, template, {"state": state()})


@require_POST
def try_again(request: SignedIn, job_id: str) -> HttpResponse:
    """Have a job done again that failed."""
    again.try_again(request.user, job_id)
    return redirect("house")


@require_POST
def let_go(request: SignedIn, job_id: str) -> HttpResponse:
    """Take a job off the list."""
    again.let_go(request.user, job_id)
    return redirect("house")


@require_POST
def give_measure(request: SignedIn, course_id: int) -> HttpResponse:
    """Give a course another measure of what it may take up."""
    policy.require(policy.keeps_house(request.user), "say what a course may take up")
    course = get_object_or_404(Course, pk=course_id)
    measures.give(request.user, course, request.POST.get("gigabytes", ""), request.POST.get("waiting", ""))
    return redirect("house")


def error(request: HttpRequest) -> HttpResponse:
    """Something went wrong on our side; its number is in the log.

    A database or a storage that is away before any page is reached is told as what it is.
    """
    trouble = sys.exc_info()[1]
    status, words = (trouble_of(trouble) if trouble else None) or (500, "")
    page = loader.render_to_string("500.html", {"request_id": getattr(request, "request_id", ""), "words": words})
    return HttpResponse(page, status=status)
