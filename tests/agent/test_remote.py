"""Talking to servers that are not ours, or not well: every answer becomes a sentence, and no token goes astray."""

import json
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Thread

import pytest

from tests.conftest import ROOT
from true_convoy.agent.problems import BadInput, Failed
from true_convoy.agent.remote import DEFAULT_SERVER, Remote, machine_name, read_file, read_release, where_to
from true_convoy.core.codes import CodeError
from true_convoy.core.errors import DocumentError
from true_convoy.core.model import Side

RELEASE = (ROOT / "docs" / "formats" / "examples" / "example.release.json").read_bytes()


class Scripted(BaseHTTPRequestHandler):
    """Gives the answer its server holds, and keeps what it was asked."""

    def answer(self) -> None:
        server = self.server
        length = int(self.headers.get("Content-Length") or 0)
        server.asked.append((self.command, self.path, dict(self.headers), self.rfile.read(length)))
        status, body = server.given
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    do_GET = do_POST = do_PUT = do_DELETE = answer  # noqa: N815 -- names the library asks for

    def log_message(self, *_: object) -> None:
        pass


@pytest.fixture
def server() -> Iterator[ThreadingHTTPServer]:
    made = ThreadingHTTPServer(("127.0.0.1", 0), Scripted)
    made.given, made.asked = (200, b"{}"), []
    Thread(target=made.serve_forever, daemon=True).start()
    yield made
    made.shutdown()
    made.server_close()


def remote(server: ThreadingHTTPServer) -> Remote:
    return Remote(f"http://127.0.0.1:{server.server_address[1]}", "a-token")


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ((200, b"<html>A shop</html>"), "gave an answer that is none of ours"),
        ((200, b"[]"), "gave an answer that is none of ours"),
        ((500, b"<html>oops</html>"), "answered with an error. Nothing was changed"),
        ((502, b"[1]"), "answered with an error. Nothing was changed"),
        ((410, b'{"detail": "This boarding code was revoked."}'), r"^This boarding code was revoked\.$"),
    ],
)
def test_every_odd_answer_is_said(server, given, said):
    server.given = given
    with pytest.raises(Failed, match=said):
        remote(server).board("22222-22222", "Desk", Side.CLIENT)


def test_a_server_that_is_not_there_is_said():
    with pytest.raises(Failed, match=r"cannot be reached\. Nothing was changed"):
        Remote("http://127.0.0.1:9").about()


def test_the_release_is_asked_for_conditionally_and_must_be_what_its_digest_says(server):
    server.given = (200, RELEASE)
    release, document = remote(server).release("0" * 64)
    assert document == RELEASE and release.version == "1.0.0"
    method, path, headers, _ = server.asked[0]
    assert (method, path, headers["If-None-Match"]) == ("GET", "/api/rig/release", f'"{"0" * 64}"')
    assert headers["Authorization"] == "Rig a-token"
    server.given = (304, b"")
    assert remote(server).release(release.digest) is None
    server.given = (200, RELEASE.replace(b"Better Buoys", b"Worse Buoys"))
    with pytest.raises(BadInput, match="was altered after it was published"):
        remote(server).release(None)
    server.given = (200, b"{}")
    with pytest.raises(DocumentError):
        remote(server).release(None)


def test_unknown_keys_of_a_release_count_for_its_digest():
    altered = json.loads(RELEASE) | {"surprise": True}
    with pytest.raises(BadInput):
        read_release(json.dumps(altered).encode())


def test_what_was_pasted_leads_to_a_server_and_a_code(tmp_path):
    code = "22222-22222"
    assert where_to(f"http://127.0.0.1:8300/join/{code}", None) == ("http://127.0.0.1:8300", code)
    assert where_to(f"https://packs.example/join/{code.lower()}/", None) == ("https://packs.example", code)
    assert where_to(code, None) == (DEFAULT_SERVER, code)
    assert where_to(code, "http://127.0.0.1:1/") == ("http://127.0.0.1:1", code)
    with pytest.raises(BadInput):
        where_to("file:///etc/passwd", None)
    with pytest.raises(CodeError):
        where_to("http://127.0.0.1/", None)
    with pytest.raises(BadInput, match="cannot be read"):
        read_file(tmp_path)
    assert machine_name()
