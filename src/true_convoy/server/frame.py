"""What all endpoints share: who may call, what goes in and out, and how a refusal is said.

An endpoint is a method of an ``APIView`` marked with ``operation``, which states who may call it and the types it
takes and gives (msgspec records or dataclasses). The OpenAPI document and the table of access come from those marks.
"""

import functools
import logging
from collections.abc import Callable
from typing import Any, ClassVar

import msgspec
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpResponse
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import exceptions
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import SimpleRateThrottle
from rest_framework.views import APIView

from true_convoy.core.errors import ConvoyError

from .access import Refusal, Who

log = logging.getLogger(__name__)


class Problem(msgspec.Struct, kw_only=True):
    """Why a request was refused: ``detail`` is a sentence, ``code`` is for programs."""

    detail: str
    code: str
    facts: dict[str, Any] = {}


def answer_error(error: Exception, context: dict[str, Any]) -> Response:
    """Every refusal as a sentence with a code; what was not foreseen is logged and said without details."""
    if isinstance(error, Refusal):
        return _problem(error.status, error.code, str(error), error.facts)
    if isinstance(error, ConvoyError):
        return _problem(400, "refused", str(error))
    if isinstance(error, Http404):
        return _problem(404, "not-found", "There is nothing at this address, or you have no access to it.")
    if isinstance(error, exceptions.Throttled):
        return _problem(429, "too-many", "Too many tries in a short time. Please wait a minute and try again.")
    if isinstance(error, exceptions.PermissionDenied | PermissionDenied):
        return _problem(403, "forbidden", "The page has been open for too long or lacks your sign-in. Reload it.")
    if isinstance(error, exceptions.APIException):
        return _problem(error.status_code, "bad-request", f"The request cannot be read. {error.detail}")
    log.error("unforeseen", exc_info=error)
    return _problem(500, "unforeseen", "Something went wrong on the server. Nothing was changed; please try again.")


def _problem(status: int, code: str, detail: str, facts: dict[str, Any] | None = None) -> Response:
    problem = Problem(detail=detail, code=code, facts=facts or {})
    return Response(msgspec.to_builtins(problem), status=status)


class CodeThrottle(SimpleRateThrottle):
    """Few tries at boarding codes per address and minute, so that codes cannot be found by trying."""

    scope = "codes"

    def get_cache_key(self, request: Request, view: Any) -> str:
        return f"codes-{self.get_ident(request)}"


# --- operations ------------------------------------------------------------------------------------------------


GIVEN: dict[str, Any] = {}
"""The types of all endpoints by their component name in the OpenAPI document."""


def operation(
    who: Who,
    *,
    gives: Any,
    takes: Any = None,
    query: dict[str, str] | None = None,
    many: dict[str, str] | None = None,
    status: int = 200,
) -> Callable[[Callable[..., Any]], Callable[..., Response]]:
    """Marks a view's method: checks who calls, reads the body as ``takes``, writes the answer as ``gives``.

    ``query`` and ``many`` name its query parameters, the latter those that may be there several times.
    """

    def mark(method: Callable[..., Any]) -> Callable[..., Response]:
        @functools.wraps(method)
        def run(view: APIView, request: Request, **path: Any) -> Response:
            admit(who, request, path)
            if takes is not None:
                path["body"] = _body(request, takes)
            answer = method(view, request, **path)
            return answer if isinstance(answer, HttpResponse) else Response(msgspec.to_builtins(answer), status=status)

        run.who = who  # type: ignore[attr-defined]
        return extend_schema(
            operation_id=method.__qualname__.replace("View.", "_").lower(),
            summary=(method.__doc__ or "").strip().split("\n")[0],
            description=f"Who may call: {who}.",
            request={"application/json": _ref(takes)} if takes is not None else None,
            responses={
                status: OpenApiResponse(_ref(gives) if gives is not None else None, description="Done."),
                "default": OpenApiResponse(_ref(Problem), description="Refused, with a sentence."),
            },
            parameters=[
                OpenApiParameter(name, description=about, many=given is many)
                for given in (query, many)
                for name, about in (given or {}).items()
            ],
        )(run)

    return mark


def _ref(kind: Any) -> dict[str, str]:
    if kind is dict:
        return {"type": "object"}
    GIVEN[kind.__name__] = kind
    return {"$ref": f"#/components/schemas/{kind.__name__}"}


def _body(request: Request, kind: Any) -> Any:
    try:
        return msgspec.convert(request.data, kind)
    except msgspec.ValidationError as error:
        raise Refusal(400, "bad-request", f"The request cannot be read: {error}.") from None


def admit(who: Who, request: Request, path: dict[str, Any]) -> None:
    """Checks who calls. For a pack in the path, puts the pack and the caller's role onto the request."""
    if who is Who.ANYONE:
        return
    if who is Who.RIG:
        if request.auth is None:
            raise Refusal(401, "rig-only", "Only a rig with its token may ask this.")
        return
    if request.auth is not None or not request.user.is_authenticated:
        raise Refusal(401, "sign-in", "Please sign in first.")
    if who is Who.STAFF and not request.user.is_staff:
        raise Refusal(403, "staff-only", "Only staff may do this.")
    if who in (Who.MEMBER, Who.CURATOR, Who.OWNER):
        from .packs.queries import pack_and_role

        request.pack, request.role = pack_and_role(path.pop("pack"), request.user)
        rank = [Who.MEMBER, Who.CURATOR, Who.OWNER]
        if rank.index(request.role.who) < rank.index(who):
            raise Refusal(403, "role", f"Only a {who} may do this; you are a {request.role.who}.")


def add_components(result: dict[str, Any], **given: Any) -> dict[str, Any]:
    """Puts the schemas of all endpoints' types into the OpenAPI document."""
    kinds = [GIVEN[name] for name in sorted(GIVEN)]
    _, parts = msgspec.json.schema_components(kinds, ref_template="#/components/schemas/{name}")
    schemas = result.setdefault("components", {}).setdefault("schemas", {})
    for name in sorted(parts):
        schemas[name] = _all_required(parts[name])
    return result


def _all_required(schema: dict[str, Any]) -> dict[str, Any]:
    """Answers always hold every key; a request may leave out keys with defaults, which this leaves to ``takes``."""
    if schema.get("type") == "object" and "properties" in schema and not schema.get("title", "").endswith("Request"):
        return schema | {"required": list(schema["properties"])}
    return schema


class View(APIView):
    """Base of all endpoints; who may call is stated by each ``operation``."""

    permission_classes: ClassVar[list[Any]] = []
