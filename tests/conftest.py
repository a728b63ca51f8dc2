"""What several kinds of tests share: the stand-in world, small enough to be quick, and its mod host."""

import io
import json
import os
import shutil
import socket
import subprocess
import sys
import time
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest
from hypothesis import settings

from true_convoy.agent.command import main
from true_convoy.core import documents
from true_convoy.core.model import Catalogue
from true_convoy.standins.world import WORLDS, make_worlds

ROOT = Path(__file__).resolve().parent.parent
# How long a case takes says more of the machine than of the code; speed is measured in benchmarks.
settings.register_profile("tests", deadline=None)
settings.load_profile("tests")
# Pictures show the demo in its full size; tests are quicker with small files.
SCALE = 1 if os.environ.get("CONVOY_PICTURES") else 20


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def wait_for(address: str, process: subprocess.Popen, seconds: float = 120) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        assert process.poll() is None, "the process ended while starting"
        try:
            httpx.get(address, timeout=2)
            return
        except httpx.HTTPError:
            time.sleep(0.05)
    raise AssertionError(f"{address} does not answer")


def stop(process: subprocess.Popen) -> None:
    process.terminate()
    try:
        process.wait(15)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


@dataclass
class ModHost:
    """A running stand-in mod host."""

    address: str

    @property
    def feed(self) -> str:
        return f"{self.address}/catalogue"

    def misbehave(self, mode: str, match: str = "", count: int = 1) -> None:
        httpx.post(f"{self.address}/faults", json={"mode": mode, "match": match, "count": count}).raise_for_status()

    def behave(self) -> None:
        httpx.delete(f"{self.address}/faults").raise_for_status()

    def catalogue(self) -> dict:
        """The whole catalogue as one document."""
        pages, address = [], f"{self.feed}?per_page=200"
        while address:
            pages.append(httpx.get(address).json())
            address = pages[-1]["next"]
        return pages[0] | {"mods": [mod for page in pages for mod in page["mods"]], "next": None}


@pytest.fixture(scope="session")
def world(tmp_path_factory) -> Path:
    folder = tmp_path_factory.mktemp("world")
    make_worlds(WORLDS, folder, scale=SCALE)
    return folder


@pytest.fixture(scope="session")
def running_host(world):
    port = free_port()
    command = [sys.executable, "-m", "true_convoy.standins.host", str(world), "--port", str(port)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    host = ModHost(f"http://127.0.0.1:{port}")
    wait_for(f"{host.address}/health", process)
    yield host
    stop(process)


@pytest.fixture
def mod_host(running_host):
    running_host.behave()
    yield running_host
    running_host.behave()


@pytest.fixture(scope="session")
def tidewrack(running_host) -> Catalogue:
    return documents.read(Catalogue, json.dumps(running_host.catalogue())).value


@pytest.fixture
def store(tmp_path, monkeypatch) -> Path:
    """An empty shared store for this test."""
    folder = tmp_path / "store"
    monkeypatch.setenv("CONVOY_STORE", str(folder))
    return folder


def convoy_process(*words: object, **environment: str) -> subprocess.CompletedProcess:
    """Runs the real command in a process of its own, as a member would."""
    program = shutil.which("convoy", path=str(Path(sys.executable).parent))
    assert program
    surroundings = os.environ | {"COLUMNS": "200"} | environment
    command = [program, *map(str, words)]
    return subprocess.run(command, env=surroundings, capture_output=True, text=True, timeout=120, check=False)


def convoy(*words: object) -> subprocess.CompletedProcess:
    """Runs the command as its entry point does, but in this process, for speed; messages come back unwrapped."""
    out, err, code = io.StringIO(), io.StringIO(), 0
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.setattr(sys, "argv", ["convoy", *map(str, words)])
        try:
            main()
        except SystemExit as ended:
            code = ended.code if isinstance(ended.code, int) else 0
    return subprocess.CompletedProcess(words, code, out.getvalue(), " ".join(err.getvalue().split()))
