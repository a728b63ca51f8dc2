"""What bin/start and bin/test share: putting on this machine what is missing, and running PostgreSQL and our parts.

Only the standard library is used, because nothing else may be there yet. What was set up is remembered as stamps below
``var/stamps`` (a digest of what it was made from), so that a second run does nothing and needs no registry.
"""

import hashlib
import os
import pwd
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("CONVOY_VAR", ROOT / "var"))
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"


def say(text: str) -> None:
    print(text, flush=True)


def fail(text: str) -> None:
    say(text)
    sys.exit(1)


def run(command: list[object], *, what: str, **given: object) -> None:
    """Runs a command quietly; shows what it printed if it fails."""
    done = subprocess.run(
        [str(part) for part in command], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **given
    )
    if done.returncode:
        say(done.stdout[-6000:])
        fail(f"{what} failed; what it printed is above.")


# --- stamps ----------------------------------------------------------------------------------------------------


def digest(paths: Iterable[Path], extra: str = "") -> str:
    """A digest of files and folders, by path and content."""
    total = hashlib.sha256(extra.encode())
    for path in paths:
        files = [path] if path.is_file() else sorted(p for p in path.rglob("*") if p.is_file())
        for file in files:
            if "__pycache__" not in file.parts:
                total.update(str(file.relative_to(ROOT)).encode())
                total.update(file.read_bytes())
    return total.hexdigest()


def once(name: str, made_from: str, make: Callable[[], None], *, there: bool = True) -> None:
    """Makes something unless it was made from the same before and is still there."""
    stamp = VAR / "stamps" / name
    if there and stamp.exists() and stamp.read_text() == made_from:
        return
    make()
    stamp.parent.mkdir(parents=True, exist_ok=True)
    stamp.write_text(made_from)


# --- the machine -----------------------------------------------------------------------------------------------


def apt(packages: list[str]) -> None:
    """Installs Debian packages; needs root, or sudo that does not ask."""
    if shutil.which("apt-get") is None:
        fail(f"Please install these packages first, as this is not a Debian machine: {' '.join(packages)}")
    say(f"Installing {', '.join(packages)} from Debian's packages")
    sudo = [] if os.geteuid() == 0 else ["sudo", "-n"]
    environment = ["env", "DEBIAN_FRONTEND=noninteractive"]
    run([*sudo, "apt-get", "update"], what="apt-get update")
    options = ["-y", "--no-install-recommends", "-o", "DPkg::Lock::Timeout=300"]
    run([*sudo, *environment, "apt-get", "install", *options, *packages], what="apt-get install")


def postgres_folder() -> Path | None:
    """The folder of the newest PostgreSQL server's programs."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda path: float(path.parts[4]))
    return found[-1].parent if found else None


def set_up(*, tests: bool) -> None:
    """Everything a run needs: Debian's packages, Python's and npm's, and the built web part."""
    if sys.version_info < (3, 11):  # noqa: UP036 -- nothing has checked it before this
        fail("Python 3.11 or newer is needed.")
    if shutil.which("npm") is None:
        fail("Node.js 20 with npm is needed.")
    missing = [] if postgres_folder() else ["postgresql"]
    if tests:
        missing += [
            name
            for name, program in (("chromium", "chromium"), ("chromium-driver", "chromedriver"))
            if shutil.which(program) is None
        ]
    try:
        import ensurepip  # noqa: F401 -- Debian keeps it in a package of its own
        import venv  # noqa: F401
    except ImportError:
        missing.append("python3-venv")
    if missing:
        apt(missing)
    VAR.mkdir(parents=True, exist_ok=True)
    uv = VAR / "tools" / "bin" / "uv"
    if not uv.exists():
        say("Installing uv")
        run([sys.executable, "-m", "venv", VAR / "tools"], what="Making a virtual environment")
        run([VAR / "tools/bin/pip", "install", "--quiet", "uv>=0.9,<1"], what="Installing uv")
    locked = digest([ROOT / "uv.lock", ROOT / "pyproject.toml"], str(ROOT))
    groups = ["--group", "dev"] if tests else ["--no-dev"]
    sync = [uv, "sync", "--frozen", "--inexact", "--all-extras", *groups, "--python", sys.executable, "--quiet"]

    def packages() -> None:
        say("Installing the locked Python packages")
        run(sync, what="uv sync", cwd=ROOT, env=os.environ | {"UV_PYTHON_DOWNLOADS": "never"})

    once(f"python-{'test' if tests else 'start'}", locked, packages, there=PYTHON.exists())

    def modules() -> None:
        say("Installing the locked npm packages")
        run(["npm", "ci", "--no-audit", "--no-fund"], what="npm ci", cwd=WEB)

    once("npm", digest([WEB / "package-lock.json"]), modules, there=(WEB / "node_modules").is_dir())

    def built() -> None:
        say("Building the web part")
        run(["npm", "run", "build"], what="The build of the web part", cwd=WEB)

    package = ROOT / "src" / "true_convoy"
    agent = [package / "core", package / "agent", package / "__init__.py", ROOT / "pyproject.toml"]

    def wheel() -> None:
        say("Packing the members' command")
        shutil.rmtree(ROOT / "var" / "agent", ignore_errors=True)
        run([uv, "build", "--wheel", "--quiet", "--out-dir", ROOT / "var" / "agent"], what="Packing", cwd=ROOT)

    once("agent", digest(agent), wheel, there=(ROOT / "var" / "agent").is_dir())
    sources = [WEB / name for name in ("src", "index.html", "vite.config.ts", "package-lock.json", "public")]
    there = (WEB / "dist" / "index.html").is_file()
    once("web", digest(path for path in sources if path.exists()), built, there=there)


# --- PostgreSQL ------------------------------------------------------------------------------------------------


class Postgres:
    """A PostgreSQL of our own below ``var/``, reached through a socket only its owner (and root) may use."""

    def __init__(self, name: str, *, durable: bool = True) -> None:
        self.programs = postgres_folder()
        self.durable = durable
        self.user = "postgres" if os.geteuid() == 0 else ""
        self.data = self._reachable(VAR / name)
        self.sockets = VAR / "run" / name
        if len(str(self.sockets)) > 80 or self.data.parent != VAR:
            self.sockets = (
                Path(tempfile.gettempdir()) / f"convoy-{hashlib.sha256(str(self.data).encode()).hexdigest()[:12]}"
            )
        self.environment = {"CONVOY_DB_HOST": str(self.sockets), "CONVOY_DB_PORT": "5432", "CONVOY_DB_USER": "convoy"}

    def _reachable(self, folder: Path) -> Path:
        """A folder the server's user can reach. Below a home of root it cannot; then the data is elsewhere."""
        if not self.user:
            return folder
        probe = VAR
        while probe != probe.parent:
            if not probe.stat().st_mode & 0o001:
                name = hashlib.sha256(str(folder).encode()).hexdigest()[:12]
                elsewhere = Path("/var/lib/true-convoy") / name
                say(f"The data goes to {elsewhere}, because the database's user cannot reach {probe}.")
                return elsewhere
            probe = probe.parent
        return folder

    def _as_user(self, command: list[object], *, what: str) -> None:
        words = [str(part) for part in command]
        prefix = (
            ["setpriv", f"--reuid={self.user}", f"--regid={self.user}", "--clear-groups", "--"] if self.user else []
        )
        run([*prefix, *words], what=what, cwd="/")

    def start(self) -> None:
        """Starts it, making its data folder first if there is none."""
        for folder in (self.data.parent, self.data, self.sockets.parent, self.sockets):
            folder.mkdir(parents=True, exist_ok=True)
        if self.user:
            owner = pwd.getpwnam(self.user)
            for folder in (self.data, self.sockets):
                os.chown(folder, owner.pw_uid, owner.pw_gid)
        self.data.chmod(0o700)
        self.sockets.chmod(0o700)
        if not (self.data / "PG_VERSION").exists():
            options = ["-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "-U", "convoy", "-D", self.data]
            self._as_user([self.programs / "initdb", *options], what="Making the database's folder")
        settings = {"listen_addresses": "''", "unix_socket_directories": f"'{self.sockets}'", "max_connections": "60"}
        # Compiling queries costs more than it saves on ours, and what is read often shall stay in memory.
        settings |= {"jit": "off", "shared_buffers": "256MB", "random_page_cost": "1.1"}
        if not self.durable:
            settings |= {"fsync": "off", "synchronous_commit": "off", "full_page_writes": "off"}
        options = " ".join(f"-c {key}={value}" for key, value in settings.items())
        log = self.data / "server.log"
        self._as_user(
            [self.programs / "pg_ctl", "-D", self.data, "-w", "-t", "60", "-l", log, "-o", options, "start"],
            what="Starting PostgreSQL",
        )

    def sql(self, database: str, command: str) -> str:
        """Runs one command through psql; what it printed."""
        psql = [self.programs / "psql", "-h", self.sockets, "-U", "convoy", "-d", database, "-qAtc", command]
        return subprocess.run([str(part) for part in psql], capture_output=True, text=True, check=True).stdout.strip()

    def database(self, name: str) -> None:
        """Makes a database unless it is there."""
        if not self.sql("postgres", f"SELECT 1 FROM pg_database WHERE datname = '{name}'"):
            self.sql("postgres", f"CREATE DATABASE {name}")

    def stop(self) -> None:
        """Stops it, if it runs."""
        if (self.data / "postmaster.pid").exists():
            self._as_user(
                [self.programs / "pg_ctl", "-D", self.data, "-m", "fast", "-w", "stop"], what="Stopping PostgreSQL"
            )


# --- processes -------------------------------------------------------------------------------------------------


def port_is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def free_port(first: int) -> int:
    """The first free port from a number on."""
    return next(port for port in range(first, first + 200) if port_is_free(port))


class Processes:
    """Our running parts, each with its log below ``var/log``."""

    def __init__(self) -> None:
        self.running: dict[str, subprocess.Popen[bytes]] = {}

    def start(self, name: str, module: list[object], environment: dict[str, str]) -> None:
        log = VAR / "log" / f"{name}.log"
        log.parent.mkdir(parents=True, exist_ok=True)
        with log.open("wb") as out:
            # Own sessions: an interrupt reaches only us, and we stop them in order.
            self.running[name] = subprocess.Popen(
                [PYTHON, "-m", *[str(part) for part in module]],
                stdout=out,
                stderr=subprocess.STDOUT,
                cwd=ROOT,
                env=os.environ | environment,
                start_new_session=True,
            )

    def ended(self) -> str | None:
        """The name of a part that has ended, if one has."""
        return next((name for name, process in self.running.items() if process.poll() is not None), None)

    def wait_for(self, address: str, seconds: float = 60) -> None:
        """Waits until an address answers; fails with the log if a part ends before."""
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            if name := self.ended():
                say((VAR / "log" / f"{name}.log").read_text(errors="replace")[-4000:])
                fail(f"The {name} ended while starting; its log is above.")
            try:
                with urllib.request.urlopen(address, timeout=2):
                    return
            except OSError:
                time.sleep(0.1)
        fail(f"{address} does not answer; see {VAR / 'log'}.")

    def stop(self) -> None:
        for process in reversed(self.running.values()):
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
        for process in self.running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
        self.running.clear()
