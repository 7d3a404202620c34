"""A course and its people: opening one, who is in it, the roster, invitations, and shares of the marking."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from nettlecap.classroom import courses, invitations, letters, people, policy, roster
from nettlecap.classroom.models import MARKERS, Course, Invitation, Letter, Membership, Role
from nettlecap.classroom.people_forms import CourseForm, MemberForm, NewCourseForm
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import Refusal
from nettlecap.marking.desk.requests import small_number
from nettlecap.pages.own import page_of_letters

ORDER = (Role.INSTRUCTOR, Role.ASSISTANT, Role.STUDENT)


def new_course(request: SignedIn) -> HttpResponse:
    """Open a course."""
    policy.require(policy.may_open_courses(request.user), "open a course")
    form = NewCourseForm(request.POST or None, person=request.user)
    if request.method == "POST" and form.is_valid():
        course = courses.open_course(request.user, form.said(), form.cleaned_data["like"])
        return redirect("people", course.pk)
    return render(request, "classroom/course_form.html", {"form": form}, status=422 if form.errors else 200)


def edit_course(request: SignedIn, course_id: int) -> HttpResponse:
    """Change what is said of a course."""
    course = _led(request, course_id)
    form = CourseForm(request.POST or None, initial=courses.Said.of(course).columns)
    if request.method == "POST" and form.is_valid():
        courses.change_course(request.user, course, form.said())
        return redirect("people", course.pk)
    context = {"form": form, "course": course}
    return render(request, "classroom/course_form.html", context, status=422 if form.errors else 200)


def people_page(request: SignedIn, course_id: int) -> HttpResponse:
    """Who is in a course."""
    return _page(request, _led(request, course_id))


def _page(request: SignedIn, course: Course, **more: Any) -> HttpResponse:
    handed_in = Count("person__takes", filter=Q(person__takes__brief__course=course, person__takes__trial=False))
    members = Membership.objects.filter(course=course).select_related("person").annotate(takes=handed_in)
    ordered = sorted(members, key=lambda m: (m.left_at is not None, ORDER.index(m.role), m.person.name.casefold()))
    context = {
        "course": course,
        "members": ordered,
        "markers": [m.person for m in ordered if m.role in MARKERS and m.left_at is None],
        "students": any(m.role == Role.STUDENT for m in ordered),
        "invitations": course.invitations.open().for_all(),
        "invited": course.invitations.open().personal(),
        "may_correct": policy.keeps_house(request.user),
        "days": invitations.DAYS,
        "roles": Role.choices,
        "member_form": MemberForm(),
        "site": settings.SITE_URL.rstrip("/"),
        **more,
    }
    return render(request, "classroom/people.html", context, status=422 if more.get("wrong") else 200)


@require_POST
def add_member(request: SignedIn, course_id: int) -> HttpResponse:
    """Bring one person in by hand."""
    course = _led(request, course_id)
    form = MemberForm(request.POST)
    if not form.is_valid():
        return _page(request, course, member_form=form, wrong=True)
    try:
        added = people.add(request.user, course, **form.cleaned_data)
    except Refusal as refusal:
        form.add_error(None, str(refusal))
        return _page(request, course, member_form=form, wrong=True)
    if added.membership is None:
        return _page(request, course, invited_now=added.invitation)
    return _page(request, course, added=added.membership.person)


@require_POST
def change_member(request: SignedIn, course_id: int, member_id: int) -> HttpResponse:
    """Somebody leaves or comes back, is something else, is written to again, or is put right."""
    course = _led(request, course_id)
    member = get_object_or_404(course.memberships.select_related("person", "course"), pk=member_id)
    deed = request.POST.get("deed")
    if deed == "leave":
        people.leave(request.user, member)
    elif deed == "come-back":
        people.come_back(request.user, member)
    elif deed == "role":
        people.change_role(request.user, member, request.POST.get("role", ""))
    elif deed == "write-again":
        people.write_again(request.user, member)
        return _page(request, course, written_to=member.person)
    elif deed == "correct":
        asked = request.POST
        people.correct(request.user, member.person, name=asked.get("name", ""), email=asked.get("email", ""))
    else:
        raise Refusal("Choose what is to become of this person.")
    return redirect("people", course.pk)


def course_letters(request: SignedIn, course_id: int) -> HttpResponse:
    """Letters to those who were brought into this course and no other and have not been here yet, to hand on."""
    course = _led(request, course_id)
    here = course.memberships.current().values("person")
    found = Letter.objects.filter(to__in=letters.here_alone().filter(pk__in=here))
    return page_of_letters(request, found, course=course)


@require_POST
def share(request: SignedIn, course_id: int) -> HttpResponse:
    """Say who marks whom, or share the students out evenly."""
    course = _led(request, course_id)
    if request.POST.get("evenly"):
        people.share_out(request.user, course)
    else:
        asked = {k.removeprefix("marker-"): v for k, v in request.POST.dict().items() if k.startswith("marker-")}
        numbers = {small_number(k): small_number(v) for k, v in asked.items()}
        people.share(request.user, course, {k: v for k, v in numbers.items() if k is not None})
    return redirect(f"{reverse('people', args=[course.pk])}#shares")


@require_POST
def read_roster(request: SignedIn, course_id: int) -> HttpResponse:
    """Show what would become of a roster."""
    course = _led(request, course_id)
    file = request.FILES.get("roster")
    try:
        if file is None:
            raise Refusal("Pick a roster first: a table saved as CSV or as an OpenDocument spreadsheet.")
        planned = roster.plan(course, roster.read(file.read(roster.LARGEST + 1)))
    except Refusal as refusal:
        return _page(request, course, roster_problem=str(refusal), wrong=True)
    return render(request, "classroom/roster.html", {"course": course, "plan": planned, "file_name": file.name})


@require_POST
def take_roster(request: SignedIn, course_id: int) -> HttpResponse:
    """Bring everybody of a roster in, after it was shown."""
    course = _led(request, course_id)
    came = roster.carry_out(request.user, course, roster.unseal(request.POST.get("rows", "")))
    return _page(request, course, came=came)


@require_POST
def invite(request: SignedIn, course_id: int) -> HttpResponse:
    """Make an invitation link."""
    course = _led(request, course_id)
    days = small_number(request.POST.get("days", "")) or 0
    invitations.invite(request.user, course, role=request.POST.get("role", ""), days=days)
    return redirect(f"{reverse('people', args=[course.pk])}#invitations")


@require_POST
def close_invitation(request: SignedIn, course_id: int, invitation_id: int) -> HttpResponse:
    """Close an invitation link."""
    course = _led(request, course_id)
    invitations.close(request.user, get_object_or_404(Invitation, course=course, pk=invitation_id))
    return redirect(f"{reverse('people', args=[course.pk])}#invitations")


def _led(request: SignedIn, course_id: int) -> Course:
    course = get_object_or_404(Course.objects.visible_to(request.user), pk=course_id)
    policy.require(policy.may_lead(request.user, course), "change who is in this course")
    return course
