"""Forms about people and courses."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth import password_validation

from nettlecap.classroom.courses import SAID, Said
from nettlecap.classroom.models import Course, Person, Role
from nettlecap.classroom.people import LOGIN, LONGEST_LOGIN, LONGEST_NAME


class CourseForm(forms.Form):
    """What a course is called, and when it is."""

    name = forms.CharField(label="Name", max_length=120, error_messages={"required": "Give it a name."})
    school = forms.CharField(label="School", max_length=120, required=False)
    term = forms.CharField(label="Term", max_length=60, required=False, help_text="As your school calls it: Autumn.")
    begins_on = forms.DateField(
        label="Begins", required=False, widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    ends_on = forms.DateField(
        label="Ends", required=False, widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )

    def clean(self) -> dict[str, Any]:
        values = super().clean() or {}
        begins, ends = values.get("begins_on"), values.get("ends_on")
        if begins and ends and ends < begins:
            self.add_error("ends_on", "It ends before it begins.")
        return values

    def said(self) -> Said:
        return Said(**{k: self.cleaned_data[k] for k in SAID})


class NewCourseForm(CourseForm):
    """A course to open; with drafts of the briefs of an earlier one if wished."""

    like = forms.ModelChoiceField(
        label="Begin with the briefs of",
        queryset=Course.objects.none(),
        required=False,
        empty_label="none",
        help_text="They come as drafts, due in a week; nobody sees them before you publish them.",
    )

    def __init__(self, *args: Any, person: Person, **more: Any) -> None:
        super().__init__(*args, **more)
        like = self.fields["like"]
        assert isinstance(like, forms.ModelChoiceField)  # noqa: S101 (told to the type checker)
        like.queryset = Course.objects.led_by(person)


class MemberForm(forms.Form):
    """Somebody to be added by hand; what a value may be is the room's own rule."""

    name = forms.CharField(label="Name, as they write it", max_length=LONGEST_NAME, required=False)
    email = forms.CharField(label="E-mail", max_length=254, required=False)
    login = forms.CharField(
        label="Login", max_length=LONGEST_LOGIN, required=False, help_text="Empty: made of the name."
    )
    role = forms.ChoiceField(label="Comes as", choices=Role.choices, initial=Role.STUDENT)


class _OwnNameForm(forms.ModelForm):  # type: ignore[type-arg]  # not generic when it runs
    name = forms.CharField(
        label="Your name, as you write it", max_length=LONGEST_NAME, error_messages={"required": "Write your name."}
    )
    email = forms.EmailField(
        label="E-mail",
        required=False,
        error_messages={"invalid": "This is no e-mail address."},
        help_text="For your marks, and for a new password when you have forgotten it.",
    )

    class Meta:
        model = Person
        fields: tuple[str, ...] = ("name", "email")

    def clean_name(self) -> str:
        return " ".join(self.cleaned_data["name"].split())


class OwnForm(_OwnNameForm):
    """What people say about themselves."""

    notices = forms.BooleanField(label="Write to me when a brief is set and when marks come", required=False)

    class Meta(_OwnNameForm.Meta):
        fields = ("name", "email", "notices")


class JoinForm(_OwnNameForm):
    """Somebody new who comes in by an invitation."""

    login = forms.CharField(
        label="A login of your own",
        max_length=LONGEST_LOGIN,
        error_messages={"required": "Choose a login."},
        help_text="Short, and easy to remember: letters, digits and @ . + - _.",
    )
    password = forms.CharField(
        label="A password of your own",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        help_text="At least 8 characters.",
        error_messages={"required": "Choose a password."},
    )
    field_order = ("name", "login", "password", "email")

    def clean_login(self) -> str:
        login = self.cleaned_data["login"].strip()
        if not LOGIN.fullmatch(login):
            raise forms.ValidationError("Use letters, digits and @ . + - _ only.")
        if Person.objects.filter(username=login).exists():
            raise forms.ValidationError("Somebody has this login already. If it is you, sign in first.")
        return login

    def clean_password(self) -> str:
        password_validation.validate_password(self.cleaned_data["password"])
        return str(self.cleaned_data["password"])
