"""How the accounts library meets our user model."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter


class Adapter(DefaultAccountAdapter):
    """No mail is sent: there is no mail server in the box."""

    def save_user(self, request: Any, user: Any, form: Any, commit: bool = True) -> Any:
        """Keeps addresses in lower case, so that they are the same however they are typed."""
        user = super().save_user(request, user, form, commit=False)
        user.email = user.email.lower()
        if commit:
            user.save()
        return user
