"""What is said of people, checked before it goes anywhere."""

from django import forms


class PersonForm(forms.Form):
    """A new account."""

    username = forms.CharField(max_length=60, error_messages={"required": "Choose a name to sign in with."})
    first_name = forms.CharField(max_length=60, required=False)
    password = forms.CharField(
        max_length=200, widget=forms.PasswordInput, error_messages={"required": "Choose a password."}
    )
    again = forms.CharField(max_length=200, widget=forms.PasswordInput, required=False)

    def clean(self):
        given = super().clean()
        if given.get("password") and given["password"] != given.get("again"):
            self.add_error("again", "The two passwords differ. Type both again.")
        return given

    def account(self) -> dict:
        """What the actions take."""
        return {name: self.cleaned_data[name] for name in ("username", "first_name", "password")}


class FirstForm(PersonForm):
    """The first house and its owner."""

    name = forms.CharField(max_length=80, error_messages={"required": "Name the house, such as your shop."})
