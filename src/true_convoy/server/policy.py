"""Middleware: pages load nothing from elsewhere and run no script but the application's own."""

from collections.abc import Awaitable, Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.http import HttpRequest, HttpResponse

_POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'self'; form-action 'self'; object-src 'none'"
)


def content_policy(
    get_response: Callable[[HttpRequest], Any],
) -> Callable[[HttpRequest], HttpResponse | Awaitable[HttpResponse]]:
    """Sets the content security policy of every answer."""
    if not iscoroutinefunction(get_response):

        def sync(request: HttpRequest) -> HttpResponse:
            response: HttpResponse = get_response(request)
            response["Content-Security-Policy"] = _POLICY
            return response

        return sync

    async def policy(request: HttpRequest) -> HttpResponse:
        response: HttpResponse = await get_response(request)
        response["Content-Security-Policy"] = _POLICY
        return response

    return markcoroutinefunction(policy)


content_policy.async_capable = True  # type: ignore[attr-defined]
content_policy.sync_capable = True  # type: ignore[attr-defined]
