"""Forms of people: who they are, their passwords, their codes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib.auth import password_validation
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.utils.translation import gettext, gettext_lazy

from apps.crews.models import Crew, Person

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.db.models import QuerySet


def _secret(label: Any, new: bool = False) -> forms.CharField:
    attrs = {"autocomplete": "new-password" if new else "current-password"}
    return forms.CharField(label=label, strip=False, max_length=256, widget=forms.PasswordInput(attrs=attrs))


class PasswordForm(forms.Form):
    """A new password for a person who is there already."""

    password = _secret(gettext_lazy("New password"), new=True)
    again = _secret(gettext_lazy("Once more"), new=True)

    def __init__(self, *args: Any, person: Person | None = None, **kwargs: Any) -> None:
        self.person = person
        super().__init__(*args, **kwargs)

    def clean(self) -> dict[str, Any]:
        """Both the same, and none that everybody would guess first."""
        found = super().clean() or self.cleaned_data
        first, again = found.get("password"), found.get("again")
        if first and again and first != again:
            self.add_error("again", gettext("The two passwords differ."))
        elif first and again:
            try:
                password_validation.validate_password(first, self.person or Person(**self.named()))
            except forms.ValidationError as error:
                self.add_error("password", error)
        return found

    def named(self) -> dict[str, Any]:
        """What is typed of a person who is not there yet."""
        return {}


class ComingForm(PasswordForm):
    """Somebody's name and first password."""

    username = forms.CharField(
        label=gettext_lazy("Name to sign in with"),
        max_length=150,
        validators=[UnicodeUsernameValidator()],
        widget=forms.TextInput(attrs={"autocomplete": "username", "autocapitalize": "none"}),
    )
    first_name = forms.CharField(label=gettext_lazy("First name"), max_length=150)
    last_name = forms.CharField(label=gettext_lazy("Last name"), max_length=150, required=False)
    email = forms.EmailField(label=gettext_lazy("Mail address, if any"), max_length=254, required=False)
    field_order = ["yard", "first_name", "last_name", "username", "email", "password", "again"]

    def clean_username(self) -> str:
        """A name nobody has, however its letters are written."""
        name = self.cleaned_data["username"]
        if Person.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError(gettext("Somebody signs in with this name already."))
        return name

    def named(self) -> dict[str, Any]:
        """What is typed of them so far."""
        return {k: self.cleaned_data.get(k, "") for k in ("username", "first_name", "last_name", "email")}

    def person_values(self) -> dict[str, Any]:
        """What a new person is made of."""
        return self.named() | {"password": self.cleaned_data["password"]}


class FirstForm(ComingForm):
    """The first yard and its owner."""

    yard = forms.CharField(label=gettext_lazy("Name of the yard"), max_length=120)

    def clean_yard(self) -> str:
        """A yard's name, once."""
        name = self.cleaned_data["yard"]
        if Crew.objects.filter(name=name).exists():
            raise forms.ValidationError(gettext("There is a yard of this name already."))
        return name


class OwnPasswordForm(PasswordForm):
    """A new password, by the old one; ``sure`` says whether it is that, and counts those who guess."""

    sure: Callable[[str], bool] | None = None
    old = _secret(gettext_lazy("Password until now"))
    field_order = ["old", "password", "again"]

    def clean_old(self) -> str:
        """The one that opens now."""
        said = self.cleaned_data["old"]
        if self.sure is None or not self.sure(said):
            raise forms.ValidationError(gettext("That is not your password."))
        return said


class CodeForm(forms.Form):
    """A code of the second factor."""

    code = forms.CharField(
        label=gettext_lazy("Code"),
        max_length=40,
        widget=forms.TextInput(attrs={"autocomplete": "one-time-code", "autofocus": True}),
    )


class SelfForm(forms.Form):
    """How a person is named, and where mail reaches them."""

    first_name = forms.CharField(label=gettext_lazy("First name"), max_length=150)
    last_name = forms.CharField(label=gettext_lazy("Last name"), max_length=150, required=False)
    email = forms.EmailField(label=gettext_lazy("Mail address, if any"), max_length=254, required=False)


class RoleForm(forms.Form):
    """A role in the yard; a guest's job."""

    role = forms.ChoiceField(label=gettext_lazy("Role"), choices=Person.Role.choices, initial=Person.Role.PLANNER)
    only_job = forms.ModelChoiceField(
        queryset=None, required=False, label=gettext_lazy("Job, for a guest"), empty_label=gettext_lazy("none")
    )

    def __init__(self, *args: Any, jobs: QuerySet, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["only_job"].queryset = jobs

    def clean(self) -> dict[str, Any]:
        """A guest has a job; nobody else has one."""
        found = super().clean() or self.cleaned_data
        if found.get("role") == Person.Role.GUEST and not found.get("only_job"):
            self.add_error("only_job", gettext("A guest sees one job: say which."))
        if found.get("role") != Person.Role.GUEST:
            found["only_job"] = None
        return found


class InviteForm(RoleForm):
    """Who is invited, as what."""

    name = forms.CharField(label=gettext_lazy("Who it is for"), max_length=150)
    email = forms.EmailField(label=gettext_lazy("Mail address, if any"), max_length=254, required=False)
    field_order = ["name", "role", "only_job", "email"]


class YardForm(forms.Form):
    """How the yard is named."""

    name = forms.CharField(label=gettext_lazy("Name of the yard"), max_length=120)

    def __init__(self, *args: Any, crew: Crew, **kwargs: Any) -> None:
        self.crew = crew
        super().__init__(*args, **kwargs)

    def clean_name(self) -> str:
        """A name no other yard has."""
        name = self.cleaned_data["name"]
        if Crew.objects.filter(name=name).exclude(pk=self.crew.pk).exists():
            raise forms.ValidationError(gettext("There is a yard of this name already."))
        return name
