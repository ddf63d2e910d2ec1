"""What is said of people, checked before it goes anywhere."""

from django import forms
from django.contrib.auth.forms import AuthenticationForm, PasswordChangeForm
from django.contrib.auth.signals import user_login_failed

from casework.actions.second_factor import code_holds, has_second_factor
from casework.merging import MergingForm


class PersonForm(forms.Form):
    """A new account."""

    username = forms.CharField(
        label="Name to sign in with", max_length=60, error_messages={"required": "Choose a name to sign in with."}
    )
    first_name = forms.CharField(label="First name", help_text="As colleagues see it", max_length=60, required=False)
    password = forms.CharField(
        label="Password",
        help_text="Eight signs or more, nothing common",
        max_length=200,
        widget=forms.PasswordInput,
        error_messages={"required": "Choose a password."},
    )
    again = forms.CharField(label="The same again", max_length=200, widget=forms.PasswordInput, required=False)

    def clean(self):
        given = super().clean()
        if given.get("password") and given["password"] != given.get("again"):
            self.add_error("again", "The two passwords differ. Type both again.")
        return given

    def account(self) -> dict:
        """What the actions take."""
        return {name: self.cleaned_data[name] for name in ("username", "first_name", "password")}


class FirstForm(PersonForm):
    """The first shop and its owner."""

    name = forms.CharField(
        label="Shop",
        help_text="Such as your shop",
        max_length=80,
        error_messages={"required": "Name the shop, such as your shop."},
    )


class PasswordForm(PasswordChangeForm):
    """One's own password."""

    def __init__(self, *args, **more):
        super().__init__(*args, **more)
        self.fields["old_password"].label = "The one you have"
        self.fields["new_password1"].label = "A new one"
        self.fields["new_password1"].help_text = "Eight signs or more, nothing common"
        self.fields["new_password2"].label = "The same again"
        self.fields["new_password2"].help_text = ""


class SettingsForm(MergingForm):
    """How the shop verifies."""

    two_verify = forms.BooleanField(required=False)
    private = forms.BooleanField(required=False)
    says_counterfeit = forms.BooleanField(required=False)
    link_days = forms.IntegerField(
        error_messages=dict.fromkeys(("required", "invalid"), "Write for how many days a client’s link lasts.")
    )

    @staticmethod
    def of(organisation) -> dict:
        """A shop as the form shows it."""
        ticked = ("two_verify", "private", "says_counterfeit")
        return {name: "on" if getattr(organisation, name) else "" for name in ticked} | {
            "link_days": organisation.link_days
        }


class SignInForm(AuthenticationForm):
    """Name and password, and a code of whoever has a second factor."""

    code = forms.CharField(max_length=20, required=False)

    def confirm_login_allowed(self, user):
        super().confirm_login_allowed(user)
        if not has_second_factor(user):
            return
        code = self.cleaned_data.get("code", "")
        if not code:
            raise forms.ValidationError("Type the six figures that your phone shows now, too.", code="second_factor")
        if not code_holds(user, code):
            # Counted like a wrong password.
            credentials = {"username": user.get_username()}
            user_login_failed.send(sender=__name__, credentials=credentials, request=self.request)
            words = "That is not the code of now. Wait for the next one, or use one that you wrote down."
            raise forms.ValidationError(words, code="second_factor")
