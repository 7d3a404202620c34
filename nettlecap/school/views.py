"""A course and the school's system: linking it, who is who there, and sending marks."""

from __future__ import annotations

from typing import Any

from django import forms
from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Course
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import NotAllowed, Refusal
from nettlecap.school import ask, keys, state
from nettlecap.school.models import CourseLink, SchoolSystem
from nettlecap.school.services import host_of


class SystemForm(forms.Form):
    """A school's system to be made known."""

    name = forms.CharField(label="Its name", max_length=120)
    client_id = forms.CharField(label="The client number under which it knows us", max_length=200)
    token_url = forms.CharField(label="Where tokens are asked for", max_length=400)

    def clean_token_url(self) -> str:
        url = str(self.cleaned_data["token_url"]).strip()
        if not host_of(url):
            raise forms.ValidationError("This is no web address.")
        return url


class LinkForm(forms.Form):
    """Which course of which system."""

    system = forms.ModelChoiceField(
        label="School’s system", queryset=SchoolSystem.objects.all(), required=False, empty_label="not linked"
    )
    members_url = forms.CharField(label="Where its members are", max_length=400, required=False)
    lineitems_url = forms.CharField(label="Where its line items are", max_length=400, required=False)


@login_not_required
def school_keys(request: SignedIn) -> JsonResponse:
    """Our public keys, for the school's system."""
    return JsonResponse(keys.key_set())


def school_page(request: SignedIn, course_id: int) -> HttpResponse:
    """A course's link to the school's system, and what was sent."""
    return _page(request, _led(request, course_id))


def _page(request: SignedIn, course: Course, **more: Any) -> HttpResponse:
    link = CourseLink.objects.filter(course=course).select_related("system").first()
    initial = {k: getattr(link, k) for k in ("system", "members_url", "lineitems_url")} if link else {}
    context = {
        "link_form": LinkForm(initial=initial),
        "system_form": SystemForm() if policy.keeps_house(request.user) else None,
        "site": settings.SITE_URL.rstrip("/"),
        **_states(course, link),
        **more,
    }
    return render(request, "school/school.html", context, status=422 if more.get("wrong") else 200)


def _states(course: Course, link: CourseLink | None) -> dict[str, Any]:
    states = state.states(course) if link else []
    sending = any(s.sending for s in states)
    return {"course": course, "link": link, "states": states, "sending": sending}


def sendings_state(request: SignedIn, course_id: int) -> HttpResponse:
    """How far the sending is."""
    course = _led(request, course_id)
    link = CourseLink.objects.filter(course=course).select_related("system").first()
    return render(request, "school/_sendings.html", _states(course, link))


@require_POST
def add_system(request: SignedIn, course_id: int) -> HttpResponse:
    """Make a school's system known, for who keeps the installation."""
    course = _led(request, course_id)
    if not policy.keeps_house(request.user):
        raise NotAllowed("Only who keeps this installation may make a school’s system known.")
    form = SystemForm(request.POST)
    if not form.is_valid():
        return _page(request, course, system_form=form, wrong=True)
    SchoolSystem.objects.create(**form.cleaned_data)
    return redirect("school", course.pk)


@require_POST
def link_course(request: SignedIn, course_id: int) -> HttpResponse:
    """Link the course, or undo the link."""
    course = _led(request, course_id)
    form = LinkForm(request.POST)
    try:
        if not form.is_valid():
            raise Refusal("Choose a school’s system, and give both addresses.")
        state.link_course(request.user, course, **form.cleaned_data)
    except Refusal as refusal:
        return _page(request, course, link_form=form, problem=str(refusal), wrong=True)
    return redirect("school", course.pk)


@require_POST
def who_is_who(request: SignedIn, course_id: int) -> HttpResponse:
    """Ask the school's system who is in the course, and show who is who."""
    course = _led(request, course_id)
    return _page(request, course, people=state.look(request.user, course))


@require_POST
def send_marks(request: SignedIn, brief_id: int) -> HttpResponse:
    """Send the marks of a brief."""
    brief = get_object_or_404(Brief.objects.visible_to(request.user).select_related("course"), pk=brief_id)
    ask.ask(request.user, brief)
    return redirect("school", brief.course_id)


def _led(request: SignedIn, course_id: int) -> Course:
    course = get_object_or_404(Course.objects.visible_to(request.user), pk=course_id)
    policy.require(policy.may_lead(request.user, course), "send the marks of this course")
    return course
