"""One's own page, coming in by an invitation, a new password, the outbox, and what is kept of one person."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, PasswordChangeView, PasswordResetConfirmView, redirect_to_login
from django.core.paginator import Paginator
from django.db.models import QuerySet
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse_lazy
from django.utils.decorators import method_decorator

from nettlecap.classroom import invitations, letters, policy, sign_in
from nettlecap.classroom.models import Invitation, Letter, Membership
from nettlecap.classroom.people_forms import JoinForm, OwnForm
from nettlecap.classroom.signed_in import SignedIn
from nettlecap.errors import NotAllowed
from nettlecap.pages import keeping

A_PAGE = 30
MODEL_BACKEND = "django.contrib.auth.backends.ModelBackend"


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """Sign in; who guesses waits longer from try to try."""

    redirect_authenticated_user = True

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        self.counts = sign_in.counts_for(request, request.POST.get("username", ""))
        seconds = sign_in.wait(self.counts)
        if seconds:
            context = {"seconds": seconds, "form": self.get_form_class()(request)}
            answer = render(request, "registration/locked.html", context, status=429)
            answer["Retry-After"] = str(seconds)
            return answer
        return super().post(request, *args, **kwargs)

    def form_valid(self, form: Any) -> HttpResponse:
        sign_in.succeeded(self.counts)
        answer = super().form_valid(form)
        sign_in.remember(self.request, answer, form.get_user())
        return answer

    def form_invalid(self, form: Any) -> HttpResponse:
        sign_in.failed(self.counts)
        return super().form_invalid(form)


def you(request: SignedIn) -> HttpResponse:
    """What one says about oneself."""
    form = OwnForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Kept.")
        return redirect("you")
    memberships = Membership.objects.of(request.user).select_related("course").order_by("course__name")
    context = {"form": form, "memberships": memberships}
    return render(request, "classroom/you.html", context, status=422 if form.errors else 200)


class ChangePassword(PasswordChangeView):
    """Change one's own password."""

    template_name = "registration/change_password.html"
    success_url = reverse_lazy("you")

    def form_valid(self, form: Any) -> HttpResponse:
        messages.success(self.request, "Your new password is set.")
        return super().form_valid(form)


@method_decorator(login_not_required, name="dispatch")
class SetPassword(PasswordResetConfirmView):
    """Set one's password by the link of a letter, and come in."""

    template_name = "registration/set_password.html"
    success_url = reverse_lazy("start")
    post_reset_login = True
    post_reset_login_backend = MODEL_BACKEND


@login_not_required
def forgotten(request: SignedIn) -> HttpResponse:
    """Ask for a letter by which a new password is set; the answer does not tell who has an account."""
    if request.method == "POST":
        letters.forgotten(request.POST.get("who", ""))
    return render(request, "registration/forgotten.html", {"asked": request.method == "POST"})


@login_not_required
def join(request: SignedIn, code: str) -> HttpResponse:
    """Come into a course by an invitation: as who is signed in, or as somebody new."""
    invitation = get_object_or_404(Invitation.objects.select_related("course"), code=code)
    if not invitation.open:
        return render(request, "classroom/join.html", {"closed": invitations.CLOSED}, status=410)
    known = request.user.is_authenticated
    if invitation.person_id is not None and not known:
        return redirect_to_login(request.path)
    if invitation.person_id is not None and invitation.person_id != request.user.pk:
        raise Http404
    form = None if known else JoinForm(request.POST or None)
    if request.method == "POST" and "no" in request.POST and invitation.person_id is not None:
        invitations.decline(request.user, invitation)
        messages.success(request, f"You have said no to {invitation.course.name}.")
        return redirect("start")
    if request.method == "POST" and known:
        invitations.join(request.user, invitation)
        return redirect("start")
    if request.method == "POST" and form is not None and form.is_valid():
        said = form.cleaned_data
        values = {k: said[k] for k in ("name", "login", "email", "password")}
        login(request, invitations.join_as_new(invitation, **values), backend=MODEL_BACKEND)
        return redirect("start")
    context = {"invitation": invitation, "form": form}
    return render(request, "classroom/join.html", context, status=422 if form is not None and form.errors else 200)


def outbox(request: SignedIn) -> HttpResponse:
    """Every letter that was written, for who keeps the installation."""
    if not policy.keeps_house(request.user):
        raise NotAllowed("Only who keeps this installation may read its outbox.")
    return page_of_letters(request, Letter.objects.all())


def page_of_letters(request: SignedIn, found: QuerySet[Letter], **more: Any) -> HttpResponse:
    """Some letters, a page of them at a time, with what others than their owners may read."""
    page = Paginator(found.select_related("to"), A_PAGE).get_page(request.GET.get("page"))
    context = {"page": page, "letters": letters.to_read(page), "mail_server": settings.MAIL_SERVER, **more}
    return render(request, "classroom/outbox.html", context)


def keep_or_delete(request: SignedIn, person_id: int) -> HttpResponse:
    """What there is of a student; all of it as a file, and a way to delete it."""
    if request.method == "POST":
        name = keeping.delete(request.user, person_id, request.POST.get("login", ""))
        messages.success(request, f"Everything of {name} is deleted. Earlier backups still hold it.")
        return redirect("start")
    return render(request, "classroom/keep_or_delete.html", {"kept": keeping.kept_of(request.user, person_id)})


def all_of_one(request: SignedIn, person_id: int) -> FileResponse:
    """Everything of one person as a zip."""
    kept = keeping.kept_of(request.user, person_id)
    name = f"{kept.person.username}-everything.zip"
    return FileResponse(keeping.as_file(kept), as_attachment=True, filename=name)
