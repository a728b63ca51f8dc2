"""What sign-up asks beyond address and password."""

from typing import Any

from django import forms


class SignUpForm(forms.Form):
    """The name others see."""

    name = forms.CharField(max_length=80, strip=True)

    def signup(self, request: Any, user: Any) -> None:
        """Called by the accounts library with the new user, before it is saved for good."""
        user.name = self.cleaned_data["name"]
        user.save()
