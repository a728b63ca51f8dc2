"""The shared store and its downloads: a file has its name only once its checksum was right."""

import hashlib
import json
import os
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Thread

import pytest
from hypothesis import given
from hypothesis import strategies as st
from rich.console import Console

from true_convoy.agent.fetch import TRIES, Download, fetch_all
from true_convoy.agent.problems import Failed, megabytes, said
from true_convoy.agent.store import Store, default_store, files_below

DATA = bytes(range(256)) * 400
SHA = hashlib.sha256(DATA).hexdigest()
QUIET = Console(quiet=True)


class Odd(BaseHTTPRequestHandler):
    """Answers as its server's script says, one line a request."""

    def do_GET(self) -> None:
        server = self.server
        begin = int(self.headers.get("Range", "bytes=0-")[6:-1])
        server.ranges.append(begin)
        how = server.script.pop(0) if server.script else "whole"
        body, status = DATA, 200
        if how == "ranged" or (how == "whole" and begin):
            body, status = DATA[begin:], 206
        if how == "gone":
            status = 404
        self.send_response(status)
        sent = {"half": body[: len(body) // 2], "endless": body * 3}.get(how, body)
        announced = len(body) if how == "half" else len(sent)
        self.send_header("Content-Length", str(announced))
        self.end_headers()
        self.wfile.write(sent)

    def log_message(self, *_: object) -> None:
        pass


@pytest.fixture
def host() -> Iterator[ThreadingHTTPServer]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Odd)
    server.script, server.ranges = [], []
    Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


@pytest.fixture
def kept(tmp_path) -> Store:
    return Store(tmp_path / "store")


def download(host: ThreadingHTTPServer, **facts: object) -> Download:
    url = f"http://127.0.0.1:{host.server_address[1]}/file.zip"
    return Download(**{"name": "File", "url": url, "size": len(DATA), "sha256": SHA} | facts)


def test_a_file_is_fetched_once(host, kept):
    for _ in range(2):
        fetch_all([download(host)], kept, QUIET)
    assert host.ranges == [0] and kept.path(SHA).read_bytes() == DATA
    assert kept.path(SHA).stat().st_mode & 0o222 == 0, "read-only"


def test_a_broken_transfer_goes_on_where_it_ended(host, kept):
    host.script = ["half"]
    fetch_all([download(host)], kept, QUIET)
    assert host.ranges == [0, len(DATA) // 2] and kept.path(SHA).read_bytes() == DATA


def test_a_host_that_ignores_ranges_is_read_from_the_start(host, kept):
    kept.partial(SHA).parent.mkdir(parents=True)
    kept.partial(SHA).write_bytes(b"something else entirely")
    host.script = ["plain"]
    fetch_all([download(host)], kept, QUIET)
    assert host.ranges == [23] and kept.path(SHA).read_bytes() == DATA


@pytest.mark.parametrize(
    ("script", "facts", "said_"),
    [
        (["half"] * TRIES + ["half"] * 9, {}, "broke off"),
        (["endless"], {}, "sent more than the size of File"),
        (["gone"], {}, "is no longer at"),
        ([], {"sha256": "0" * 64}, "its checksum differs"),
        ([], {"url": "file:///etc/passwd"}, "neither http nor https"),
        ([], {"url": "http://127.0.0.1:9/x"}, "cannot be reached"),
    ],
)
def test_what_cannot_be_had_is_said_and_never_gets_a_name(host, kept, script, facts, said_):
    host.script = script
    wanted = download(host, **facts)
    if said_ == "broke off":
        # Each half brings the end nearer, so only a host that never gets on is given up.
        wanted.size = len(DATA) * 100
    with pytest.raises(Failed, match=said_):
        fetch_all([wanted], kept, QUIET)
    assert not kept.has(wanted.sha256)


def test_a_partial_file_that_turns_out_wrong_is_thrown_away_and_fetched_anew(host, kept):
    kept.partial(SHA).parent.mkdir(parents=True)
    kept.partial(SHA).write_bytes(b"x" * 1000)
    with pytest.raises(Failed, match="its checksum differs"):
        fetch_all([download(host)], kept, QUIET)
    fetch_all([download(host)], kept, QUIET)
    assert host.ranges == [1000, 0] and kept.path(SHA).read_bytes() == DATA


def put(store: Store, data: bytes, folder: Path) -> str:
    path = folder / "in"
    path.write_bytes(data)
    digest = hashlib.sha256(data).hexdigest()
    store.copy_in(path, digest)
    return digest


def test_a_copy_that_was_altered_is_noticed_and_thrown_out(kept, tmp_path):
    digest = put(kept, DATA, tmp_path)
    assert kept.has(digest)
    os.utime(kept.path(digest), (1, 1))
    assert kept.has(digest), "only its time changed: proven again and kept"
    kept.path(digest).chmod(0o644)
    kept.path(digest).write_bytes(b"spoilt")
    assert not kept.has(digest) and not kept.path(digest).exists()
    assert not kept.has("1" * 64)


def test_files_are_given_as_the_same_bytes_or_as_a_copy(kept, tmp_path, monkeypatch):
    digest = put(kept, DATA, tmp_path)
    kept.give(digest, tmp_path / "linked")
    assert (tmp_path / "linked").samefile(kept.path(digest))

    def refuse(*_: object) -> None:
        raise OSError("other file system")

    monkeypatch.setattr(os, "link", refuse)
    kept.give(digest, tmp_path / "copied")
    assert not (tmp_path / "copied").samefile(kept.path(digest)) and (tmp_path / "copied").read_bytes() == DATA


def test_the_store_is_where_the_environment_says(monkeypatch, tmp_path):
    monkeypatch.setenv("CONVOY_STORE", str(tmp_path / "there"))
    assert default_store().root == tmp_path / "there"
    monkeypatch.delenv("CONVOY_STORE")
    assert default_store().root.parts[-2:] == ("true-convoy", "store")


def test_links_are_not_files_to_be_recognised(tmp_path):
    (tmp_path / "a").write_text("a")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    (tmp_path / "loop").symlink_to(tmp_path)
    assert [path.name for path in files_below(tmp_path)] == ["a"]


@given(st.integers(0, 10**12))
def test_sizes_are_said_with_a_unit(size):
    number, unit = megabytes(size).split()
    assert unit in ("kB", "MB", "GB") and float(number) >= 0


def test_errors_of_the_system_become_sentences():
    for error, words in (
        (PermissionError(13, "x"), "may not be written to"),
        (OSError(5, "I/O error"), "cannot be used"),
    ):
        with pytest.raises(Failed, match=words), said(Path("/game")):
            raise error


def test_a_seal_is_plain_json(kept, tmp_path):
    digest = put(kept, b"x", tmp_path)
    assert json.loads(kept.path(digest).with_suffix(".seal").read_text())[0] == 1
