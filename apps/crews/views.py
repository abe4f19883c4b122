"""Coming in and going out, and what a person keeps of their own."""

from __future__ import annotations

import time
from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.core.exceptions import PermissionDenied
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews import people_planner, presenter, throttle
from apps.crews.forms import CodeForm, ComingForm, FirstForm, OwnPasswordForm, PasswordForm, SelfForm
from apps.crews.models import Person, SignIn
from apps.crews.permissions import permission
from cantrel.border import row_id
from cantrel.pages import own_page
from cantrel.surroundings import ALONE

if TYPE_CHECKING:
    from django.contrib.auth.forms import AuthenticationForm
    from django.http import HttpRequest, HttpResponse


BACKEND = "apps.crews.backend.CrewBackend"
HALF_FOR = 300  # how long the second step of signing in may take [s]


def come_in(request: HttpRequest, person: Person) -> None:
    """Sign a person in and keep where."""
    login(request, person, backend=BACKEND)
    request.session.save()
    throttle.noted(
        request, person.get_username(), SignIn.Outcome.IN, person=person, session=request.session.session_key
    )


@method_decorator(login_not_required, name="dispatch")
class SignInView(LoginView):
    """Name and password; whoever has a second factor is asked for it next."""

    template_name = "crews/sign_in.html"
    redirect_authenticated_user = True

    def get(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """The form; the first-run page where nobody is there at all."""
        return redirect("first") if people_planner.nobody_yet() else super().get(request, *args, **kwargs)

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Try a name and a password, unless too many were tried."""
        name = request.POST.get("username", "").strip()[:150]
        if "\x00" not in name and throttle.held(name, throttle.address_of(request)):
            return self._later(request, name)
        with throttle.in_turn() as mine:
            return super().post(request, *args, **kwargs) if mine else self._later(request, name)

    def _later(self, request: HttpRequest, name: str) -> HttpResponse:
        throttle.log.warning("sign-in of %r from %s: held back", name, throttle.address_of(request))
        form = self.get_form_class()(request)
        said = gettext("Too many tries. Wait a quarter of an hour, or ask an owner of your yard for a new password.")
        context = self.get_context_data(form=form, held=said)
        response = render(request, self.template_name, context, status=429)
        response["Retry-After"] = "900"
        return response

    def form_invalid(self, form: AuthenticationForm) -> HttpResponse:
        """Keep that it was tried."""
        name = form.data.get("username", "").strip()
        if name and "\x00" not in name and form.data.get("password"):
            throttle.noted(self.request, name, SignIn.Outcome.REFUSED)
        return super().form_invalid(form)

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Come in, or go on to the second factor."""
        person, there = form.get_user(), self.get_success_url()
        if not person.second_factor:
            come_in(self.request, person)
            return redirect(there)
        self.request.session["half"] = {"person": person.pk, "at": int(time.time()), "next": there}
        return redirect("second")


@login_not_required
def second(request: HttpRequest) -> HttpResponse:
    """The second factor: a code of the phone, or a rescue code."""
    if request.user.is_authenticated:
        raise PermissionDenied
    half = request.session.get("half") or {"at": 0}
    person = Person.objects.filter(pk=half.get("person"), is_active=True).first()
    if person is None or time.time() - half["at"] > HALF_FOR:
        return redirect("sign-in")
    form = CodeForm(request.POST or None)
    name, address = person.get_username(), throttle.address_of(request)
    if request.method == "POST" and throttle.held(name, address):
        form.add_error(None, gettext("Too many tries. Wait a quarter of an hour."))
    elif form.is_valid() and people_planner.second_fits(person, form.cleaned_data["code"]):
        del request.session["half"]
        come_in(request, person)
        return redirect(half["next"])
    elif form.is_bound and form.is_valid():
        throttle.noted(request, name, SignIn.Outcome.SECOND, person=person)
        form.add_error("code", gettext("That code is not right, or was used already."))
    return render(request, "crews/second.html", {"form": form})


@login_not_required
def first(request: HttpRequest) -> HttpResponse:
    """The first run: a yard and its owner, while nobody is there. From elsewhere only the command makes one."""
    if not people_planner.nobody_yet():
        if request.user.is_authenticated:
            raise PermissionDenied
        return redirect("sign-in")
    near = throttle.address_of(request) in ALONE
    form = FirstForm(request.POST or None)
    if near and form.is_valid():
        person = people_planner.first_owner(form.cleaned_data["yard"], form.person_values())
        if person is not None:
            come_in(request, person)
        return redirect("people" if person else "sign-in")
    return render(request, "crews/first.html", {"form": form, "near": near})


@login_not_required
def join(request: HttpRequest, key: str) -> HttpResponse:
    """Come in by an invitation."""
    door = people_planner.invitation(key)
    if door is None:
        return render(request, "crews/shut.html", status=403)
    start = {"first_name": door.name.partition(" ")[0], "last_name": door.name.partition(" ")[2], "email": door.email}
    form = ComingForm(request.POST or None, initial=start)
    if form.is_valid():
        person = people_planner.join(key, form.person_values())
        if person is not None:
            come_in(request, person)
        return redirect("jobs")
    return render(request, "crews/join.html", {"form": form, "door": door})


@login_not_required
def reset(request: HttpRequest, key: str) -> HttpResponse:
    """Choose a new password by an owner's link."""
    person = people_planner.person_of_reset(key)
    if person is None:
        return render(request, "crews/shut.html", status=403)
    form = PasswordForm(request.POST or None, person=person)
    if form.is_valid():
        people_planner.set_password(person, form.cleaned_data["password"])
        messages.success(request, gettext("The new password is kept. Sign in with it."))
        return redirect("sign-in")
    return render(request, "crews/reset.html", {"form": form, "person": person})


@require_POST
@permission("person.self")
def switch_units(request: HttpRequest) -> HttpResponse:
    """Switch between metric and US customary and go back to where the person was."""
    wanted = request.POST.get("units")
    if wanted in Person.Units.values:
        request.user.units = wanted
        request.user.save(update_fields=["units"])
    return redirect(own_page(request.POST.get("next", ""), "jobs"))


@permission("person.self")
def account(request: HttpRequest) -> HttpResponse:
    """A person's own page: name, password, second factor, where they are signed in."""
    return _account(request, SelfForm(initial=_self(request.user)), OwnPasswordForm(person=request.user))


def _self(person: Person) -> dict[str, str]:
    return {name: getattr(person, name) for name in SelfForm.base_fields}


def _account(request: HttpRequest, form: SelfForm, password_form: OwnPasswordForm) -> HttpResponse:
    shown = presenter.account(request.user, request.session.session_key)
    return render(request, "crews/account.html", shown | {"form": form, "password_form": password_form})


@require_POST
@permission("person.self")
def account_name(request: HttpRequest) -> HttpResponse:
    """Keep how a person is named."""
    form = SelfForm(request.POST, initial=_self(request.user))
    if not form.is_valid():
        return _account(request, form, OwnPasswordForm(person=request.user))
    for name, value in form.cleaned_data.items():
        setattr(request.user, name, value)
    request.user.save(update_fields=list(form.cleaned_data))
    messages.success(request, gettext("Kept."))
    return redirect("account")


@require_POST
@permission("person.self")
def account_password(request: HttpRequest) -> HttpResponse:
    """Change one's own password; every other session ends."""
    form = OwnPasswordForm(request.POST, person=request.user)
    form.sure = partial(throttle.sure_of, request)
    if not form.is_valid():
        return _account(request, SelfForm(initial=_self(request.user)), form)
    old = request.session.session_key
    people_planner.set_password(request.user, form.cleaned_data["password"], keep=old)
    update_session_auth_hash(request, request.user)
    people_planner.moved_session(request.user, old, request.session.session_key)
    messages.success(request, gettext("The new password is kept. You are signed out everywhere else."))
    return redirect("account")


@require_POST
@permission("person.self")
def account_sessions(request: HttpRequest) -> HttpResponse:
    """End one session, or all others."""
    said = request.POST.get("end", "")
    if said == "others":
        people_planner.end_sessions(request.user, request.session.session_key)
    else:
        people_planner.end_sessions(request.user, request.session.session_key, only=row_id(said))
    return redirect("account")


@permission("person.self")
def account_second(request: HttpRequest) -> HttpResponse:
    """Set up the second factor: the secret as a picture, a code to prove it came over."""
    secret = request.session.get("secret") or people_planner.new_secret()
    request.session["secret"] = secret
    form = CodeForm(request.POST or None)
    codes = people_planner.start_second(request.user, secret, form.cleaned_data["code"]) if form.is_valid() else None
    if codes:
        del request.session["secret"]
        return render(request, "crews/rescue.html", {"codes": codes})
    if form.is_bound and form.is_valid():
        form.add_error(
            "code", gettext("That is not the code of this secret. Look at the phone's clock, and try the next.")
        )
    return render(request, "crews/set_up.html", presenter.set_up(request.user, secret) | {"form": form})


@require_POST
@permission("person.self")
def account_second_off(request: HttpRequest) -> HttpResponse:
    """Ask for no code any more, by one's password."""
    if throttle.sure_of(request, request.POST.get("password", "")):
        people_planner.stop_second(request.user)
        messages.success(request, gettext("No code is asked for any more."))
    else:
        messages.error(request, gettext("That is not your password: the second factor stays."))
    return redirect("account")
