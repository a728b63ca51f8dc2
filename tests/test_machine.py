"""What bin/start and bin/test stand on: stamps, ports, and processes that are waited for and stopped."""

import importlib.util
import socket
import subprocess
import sys

import pytest

from tests.conftest import ROOT


@pytest.fixture
def machine(tmp_path, monkeypatch):
    """The module, as loaded by the commands, with its own var and root."""
    monkeypatch.setenv("CONVOY_VAR", str(tmp_path / "var"))
    spec = importlib.util.spec_from_file_location("machine", ROOT / "bin" / "machine.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    monkeypatch.setattr(module, "ROOT", tmp_path)
    return module


def test_a_stamp_keeps_what_was_made_from_being_made_again(machine, tmp_path):
    source, made = tmp_path / "source", []
    source.mkdir()
    (source / "a.txt").write_text("one")

    def make(there: bool = True) -> None:
        machine.once("thing", machine.digest([source]), lambda: made.append(1), there=there)

    make()
    make()
    assert len(made) == 1
    (source / "a.txt").write_text("two")
    make()
    assert len(made) == 2, "made anew when its sources change"
    make(there=False)
    assert len(made) == 3, "and when it is gone"
    (source / "__pycache__").mkdir()
    (source / "__pycache__" / "a.pyc").write_text("x")
    make()
    assert len(made) == 3


def test_a_making_that_fails_leaves_no_stamp(machine, capsys):
    def fail() -> None:
        machine.run([sys.executable, "-c", "print('the reason'); raise SystemExit(3)"], what="Making it")

    for _ in range(2):
        with pytest.raises(SystemExit):
            machine.once("thing", "x", fail)
    assert capsys.readouterr().out.count("the reason\n\nMaking it failed; what it printed is above.") == 2


def test_taken_ports_are_seen(machine):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not machine.port_is_free(port)
        assert machine.free_port(port) > port


def test_processes_are_waited_for_and_stopped_and_their_end_is_told_with_its_log(machine, capsys):
    parts = machine.Processes()
    port = machine.free_port(18300)
    machine.ROOT = ROOT
    parts.start("pages", ["http.server", port, "--bind", "127.0.0.1"], {})
    parts.wait_for(f"http://127.0.0.1:{port}/")
    assert parts.ended() is None
    process = parts.running["pages"]
    parts.stop()
    assert process.poll() is not None and parts.running == {}
    parts.start("broken", ["no_such_module_at_all"], {})
    with pytest.raises(SystemExit):
        parts.wait_for(f"http://127.0.0.1:{port}/")
    assert "no_such_module_at_all" in capsys.readouterr().out


def test_a_port_that_is_taken_is_said_by_start_before_anything_else(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = subprocess.run(
            [sys.executable, ROOT / "bin" / "start", "--port", str(port)], capture_output=True, text=True, check=False
        )
    assert done.returncode == 1 and f"Port {port} cannot be used" in done.stdout


@pytest.mark.parametrize("script", ["start", "test", "convoy", "client", "formats"])
def test_the_commands_can_be_run(script):
    path = ROOT / "bin" / script
    assert path.stat().st_mode & 0o111 and path.read_bytes().startswith(b"#!/usr/bin/env ")
