"""Who is signed in."""

import msgspec
from django.middleware.csrf import get_token
from rest_framework.request import Request

from ..access import Who
from ..frame import View, operation


class Me(msgspec.Struct, kw_only=True):
    """The caller; ``name`` and ``email`` are empty for somebody who is not signed in."""

    signed_in: bool
    name: str
    email: str
    staff: bool


class MeView(View):
    """The caller's own account."""

    @operation(Who.ANYONE, gives=Me)
    def get(self, request: Request) -> Me:
        """Who is signed in; also hands out the CSRF cookie."""
        get_token(request._request)
        user = request.user
        if request.auth is not None or not user.is_authenticated:
            return Me(signed_in=False, name="", email="", staff=False)
        return Me(signed_in=True, name=user.name, email=user.email, staff=user.is_staff)
