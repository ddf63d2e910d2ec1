"""The shop's page and the ways in: parse, one action or query, render."""

import logging
import re
from base64 import b32encode

from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.signals import user_logged_in, user_login_failed
from django.contrib.auth.views import LoginView, PasswordChangeView
from django.dispatch import receiver
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse, reverse_lazy
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django_otp.plugins.otp_totp.models import TOTPDevice

from assay.errors import AssayError
from casework import wording
from casework.access import key_in, organisation_of
from casework.actions import organisation_people as people
from casework.actions import second_factor as factor
from casework.actions.open_link import end_link
from casework.models import Invitation
from casework.photos.phone_link import qr_code
from casework.roles import MAY_OWN, NAMES, role_of
from casework.shop.forms import FirstForm, PasswordForm, PersonForm, SettingsForm, SignInForm

log = logging.getLogger("wahrheit")


@require_GET
def organisation(request):
    """Who works there."""
    return _page(request)


def _page(request, problem: str = "", link: str = ""):
    own = organisation_of(request.user)
    members = [
        {
            "user": member,
            "role": role_of(member),
            "name": NAMES[role_of(member)],
            "coded": factor.has_second_factor(member),
        }
        for member in own.members.order_by("username")
    ]
    page = {
        "organisation": own,
        "members": members,
        "roles": NAMES.items(),
        "owns": request.user.has_perm(MAY_OWN),
        "settings": SettingsForm(initial=SettingsForm.of(own)),
        "waiting": Invitation.objects.filter(organisation=own, used_by=None).order_by("-expires_at")[:10],
        "ledger": own.ledger.filter(case=None).select_related("actor").order_by("-pk")[:30],
        "actions": wording.ACTIONS,
        "links": own.links.filter(expires_at__gt=timezone.now()).select_related("case", "made_by").order_by("-pk")[:40],
        "problem": problem,
        "link": link,
    }
    page["ledger"] = [{"entry": one, "action": wording.ACTIONS.get(one.action, one.action)} for one in page["ledger"]]
    return render(request, "casework/shop/show.html", page, status=422 if problem else 200)


@require_POST
def work(request, action):
    """Invite, give a role, shut out, end a link, say how the shop verifies."""
    own, user = organisation_of(request.user), request.user
    try:
        if action == "invite":
            secret = people.invite(organisation=own, user=user, role=request.POST.get("role", ""))
            return _page(request, link=request.build_absolute_uri(reverse("join", args=[secret])))
        if action == "settings":
            form = SettingsForm(request.POST, initial=SettingsForm.of(own))
            if not form.is_valid():
                return _page(request, next(iter(form.errors.values()))[0])
            people.set_organisation(organisation=own, user=user, **form.cleaned_data)
        elif action == "end-link":
            end_link(link=get_object_or_404(own.links, pk=key_in(request.POST.get("link", ""))), user=user)
        elif action in ("role", "shut-out", "second-off"):
            member = get_object_or_404(own.members, pk=key_in(request.POST.get("member", "")))
            if action == "second-off":
                factor.turn_off_for(organisation=own, user=user, member=member)
            elif action == "role":
                people.set_role(organisation=own, user=user, member=member, role=request.POST.get("role", ""))
            else:
                people.shut_out(organisation=own, user=user, member=member)
    except AssayError as error:
        return _page(request, wording.of_error(error))
    messages.success(request, "Kept.")
    return redirect("shop")


@login_not_required
@require_http_methods(["GET", "POST"])
def join(request, secret):
    """An invited person makes their account, once."""
    invitation = people.invitation_behind(secret)
    if invitation is None:
        return render(request, "casework/shop/over.html", status=410)
    form, problem = PersonForm(request.POST or None), ""
    if request.method == "POST" and form.is_valid():
        try:
            user = people.join(secret=secret, **form.account())
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            login(request, user, backend="django.contrib.auth.backends.ModelBackend")
            return redirect("counter")
    page = {"form": form, "problem": problem, "organisation": invitation.organisation, "role": NAMES[invitation.role]}
    return render(request, "casework/shop/join.html", page, status=422 if problem or form.errors else 200)


@login_not_required
@require_http_methods(["GET", "POST"])
def first(request):
    """The very first start: a shop and its owner. Gone as soon as there is anybody."""
    if get_user_model().objects.exists():
        return redirect("sign-in")
    form, problem = FirstForm(request.POST or None), ""
    if request.method == "POST" and form.is_valid():
        try:
            user = people.open_organisation(name=form.cleaned_data["name"], **form.account())
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            login(request, user, backend="django.contrib.auth.backends.ModelBackend")
            return redirect("library")
    return render(
        request,
        "casework/shop/first.html",
        {"form": form, "problem": problem},
        status=422 if problem or form.errors else 200,
    )


@require_http_methods(["GET", "POST"])
def second_factor(request):
    """One's own second factor: turned on with a phone's first code, off with a code; spare ones are shown once."""
    own, user, page, problem = organisation_of(request.user), request.user, {}, ""
    code = request.POST.get("code", "")[:20]
    try:
        if request.POST.get("action") == "on":
            page["spare"] = factor.turn_on(organisation=own, user=user, code=code)
        elif request.POST.get("action") == "off":
            factor.turn_off(organisation=own, user=user, code=code)
    except AssayError as error:
        problem = wording.of_error(error)
    page |= {"organisation": own, "on": factor.has_second_factor(user), "problem": problem}
    if not page["on"]:
        device = factor.device_to_confirm(user)
        secret = b32encode(device.bin_key).decode()
        page |= {"qr": qr_code(device.config_url), "secret": " ".join(re.findall(".{1,4}", secret))}
    return render(request, "casework/shop/second_factor.html", page, status=422 if problem else 200)


@require_POST
def sessions(request):
    """Signed out on every other machine."""
    ended = factor.sign_out_everywhere(request.user, keep=request.session.session_key)
    log.info("sessions of %s ended elsewhere: %s", request.user.get_username(), ended)
    messages.success(request, f"Signed out elsewhere: {ended}. Here you still are.")
    return redirect("shop")


class SignIn(LoginView):
    """Signing in; where there is nobody yet, the first start instead."""

    template_name = "sign_in.html"
    redirect_authenticated_user = True
    authentication_form = SignInForm

    def get_context_data(self, **given):
        # Nobody is told who has one: the field is there as soon as anybody does.
        return super().get_context_data(**given) | {"codes": TOTPDevice.objects.filter(confirmed=True).exists()}

    def get(self, request, *args, **kwargs):
        if not get_user_model().objects.exists():
            return redirect("first")
        return super().get(request, *args, **kwargs)


@receiver(user_logged_in)
def _signed_in(request, user, **_signal) -> None:
    log.info("sign-in of %s from %s", user.get_username(), request.META.get("REMOTE_ADDR", "-"))


@receiver(user_login_failed)
def _refused(credentials, request=None, **_signal) -> None:
    where = request.META.get("REMOTE_ADDR", "-") if request else "-"
    log.warning("refused sign-in as %s from %s", str(credentials.get("username"))[:60], where)


class Password(PasswordChangeView):
    """One's own password."""

    form_class = PasswordForm
    template_name = "casework/shop/password.html"
    success_url = reverse_lazy("counter")

    def form_valid(self, form):
        messages.success(self.request, "Your password is changed.")
        return super().form_valid(form)
