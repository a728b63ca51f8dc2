"""Talking to the server."""

import socket
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import httpx
import msgspec

from true_convoy.core import documents
from true_convoy.core.codes import read_code
from true_convoy.core.model import Inventory, Release, Side
from true_convoy.core.release import digest_of

from .problems import BadInput, Failed

DEFAULT_SERVER = "http://127.0.0.1:8300"
_MAX_RELEASE_BYTES = 256 * 1024 * 1024


def where_to(given: str, server: str | None) -> tuple[str, str]:
    """Server and code of what a person pasted: a join address, or a bare code for ``server``."""
    parts = urlsplit(given)
    if parts.scheme in ("http", "https") and parts.netloc:
        return f"{parts.scheme}://{parts.netloc}", read_code(parts.path.rstrip("/").rpartition("/")[2])
    if "://" in given:
        raise BadInput("A join address begins with http:// or https://.")
    return (server or DEFAULT_SERVER).rstrip("/"), read_code(given)


class Remote:
    """A server, and after boarding the rig's token."""

    def __init__(self, server: str, token: str | None = None) -> None:
        self.server = server
        headers = {"Authorization": f"Rig {token}"} if token else {}
        self.client = httpx.Client(base_url=server, headers=headers, timeout=httpx.Timeout(30, connect=10))

    def board(self, code: str, name: str, side: Side) -> dict[str, Any]:
        """Brings a rig aboard; its token and what it follows."""
        return self._asked("POST", f"/api/boarding/{code}", json={"name": name, "side": side})

    def about(self) -> dict[str, Any]:
        """What the rig follows and should be on."""
        return self._asked("GET", "/api/rig")

    def release(self, known: str | None) -> tuple[Release, bytes] | None:
        """The release the rig should be on with its document, or None if it is the known one."""
        headers = {"If-None-Match": f'"{known}"'} if known else {}
        response = self._send("GET", "/api/rig/release", headers=headers)
        if response.status_code == 304:
            return None
        if len(response.content) > _MAX_RELEASE_BYTES:
            raise Failed("The release document is far too large. Nothing was changed.")
        return read_release(response.content)

    def report(self, inventory: Inventory) -> None:
        """Tells what the rig has."""
        self._asked("PUT", "/api/rig/inventory", json=documents.to_builtins(inventory))

    def leave(self) -> None:
        """Signs the rig off."""
        self._asked("DELETE", "/api/rig")

    def _asked(self, method: str, path: str, **given: Any) -> dict[str, Any]:
        try:
            answer = self._send(method, path, **given).json()
        except ValueError:
            answer = None
        if not isinstance(answer, dict):
            raise Failed(f"{self.server} gave an answer that is none of ours. Is the address right?")
        return answer

    def _send(self, method: str, path: str, **given: Any) -> httpx.Response:
        if "json" in given:
            given["content"] = msgspec.json.encode(given.pop("json"))
            given["headers"] = {"Content-Type": "application/json"}
        try:
            response = self.client.request(method, path, **given)
        except (httpx.HTTPError, httpx.InvalidURL):
            raise Failed(f"The server {self.server} cannot be reached. Nothing was changed; try again later.") from None
        if response.status_code >= 400:
            raise Failed(_sentence(response, self.server))
        return response


def _sentence(response: httpx.Response, server: str) -> str:
    try:
        return str(response.json()["detail"])
    except (ValueError, KeyError, TypeError):
        return f"{server} answered with an error. Nothing was changed; try again later."


def read_release(data: bytes) -> tuple[Release, bytes]:
    """A release document whose digest holds. Raises DocumentError, or BadInput if it was altered."""
    document = documents.read(Release, data)
    if digest_of(document.raw) != document.value.digest:
        raise BadInput("The release document was altered after it was published: its digest does not hold.")
    return document.value, data


def read_file(path: Path) -> bytes:
    """The bytes of a document. Raises BadInput with a sentence."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise BadInput(f"{path} cannot be read ({error.strerror}).") from None


def machine_name() -> str:
    """What this machine is called, as a first name for a rig."""
    return socket.gethostname().partition(".")[0] or "a rig"
