"""Who may call, how a caller is known, and how a refusal is said."""

import enum
import hashlib
from typing import Any

from rest_framework.authentication import BaseAuthentication
from rest_framework.request import Request

from true_convoy.core.errors import ConvoyError


class Who(enum.StrEnum):
    """Who may call an endpoint. Pack roles include the ones above them: an owner may do what a curator may."""

    ANYONE = "anyone"
    SIGNED_IN = "signed in"
    STAFF = "staff"
    MEMBER = "member of the pack"
    CURATOR = "curator of the pack"
    OWNER = "owner of the pack"
    RIG = "rig"


class Refusal(ConvoyError):
    """A request that is refused: the status, a short code for programs, a sentence for people, and facts."""

    def __init__(self, status: int, code: str, sentence: str, **facts: Any) -> None:
        super().__init__(sentence)
        self.status = status
        self.code = code
        self.facts = facts


def token_hash(token: str) -> str:
    """What is kept of a rig's token."""
    return hashlib.sha256(token.encode()).hexdigest()


class RigAuthentication(BaseAuthentication):
    """``Authorization: Rig TOKEN``: only the hash of a token is kept."""

    def authenticate(self, request: Request) -> tuple[Any, Any] | None:
        word, _, token = request.headers.get("Authorization", "").partition(" ")
        if word != "Rig" or not token:
            return None
        from django.contrib.auth.models import AnonymousUser

        from .rigs.queries import rig_by_token

        rig = rig_by_token(token)
        if rig is None:
            raise Refusal(401, "rig-unknown", "This rig no longer follows the pack: it was signed off. Join again.")
        return rig.user or AnonymousUser(), rig
