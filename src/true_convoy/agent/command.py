"""The ``convoy`` command. Exit codes: 0 done; 1 the answer is no, or it failed; 2 bad input or usage."""

import sys
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from true_convoy.core.codes import CodeError
from true_convoy.core.errors import ConvoyError, DocumentError, UnsafePath
from true_convoy.core.model import Side
from true_convoy.core.state import State

from . import offline
from .folder import RigFolder
from .problems import BadInput, Failed, megabytes
from .remote import machine_name, where_to
from .rig import Rig, Status
from .store import default_store

app = typer.Typer(
    help="Follow a pack of mods: join it with a boarding code, and keep a game folder in step with it.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
offline.add_to(app)
console = Console(stderr=True)
Into = Annotated[Path, typer.Option("--into", help="The game folder; the present folder if not given.")]
_WORDS = {
    "missing": "is missing",
    "changed": "was altered",
    "extra": "is not in the release",
    "awaited": "must be fetched by a person",
}


@app.command()
def join(
    code: Annotated[str, typer.Argument(help="A boarding code, or the address of its join page.")],
    into: Into = Path("."),
    name: Annotated[str, typer.Option(help="What this rig is called on the roster.")] = "",
    side: Annotated[Side, typer.Option(help="client for a player, server for a server.")] = Side.CLIENT,
    server: Annotated[str | None, typer.Option(help="Where the pack is, if only a code was given.")] = None,
) -> None:
    """Board with a code: the folder is filled from the pack and follows it from now on."""
    address, characters = where_to(code, server)
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        aboard = Rig.join(folder, address, characters, name or machine_name(), side)
        console.print(f"Aboard [bold]{aboard['name']}[/] in {folder.root}.")
        _sync(Rig(folder, default_store(), console))


@app.command()
def sync(
    into: Into = Path("."),
    without: Annotated[list[str] | None, typer.Option(help="Leave this optional mod out.")] = None,
    take: Annotated[list[str] | None, typer.Option("--with", help="Take this optional mod again.")] = None,
) -> None:
    """Bring the folder to the pack's release."""
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        rig = Rig(folder, default_store(), console)
        for mod in without or []:
            rig.go_without(mod, without=True)
        for mod in take or []:
            rig.go_without(mod, without=False)
        _sync(rig)


def _sync(rig: Rig) -> None:
    release, outcome, status = rig.sync()
    todo = outcome.plan
    if todo.nothing_to_do:
        console.print(f"Nothing to do: {todo.unchanged} files are as {release.name} {release.version} has them.")
    else:
        placed = megabytes(sum(goal.size for goal in todo.place))
        console.print(f"{len(todo.place)} files placed ({placed}), {todo.unchanged} left as they were.")
    if todo.set_aside:
        console.print(f"{len(todo.set_aside)} files set aside in {rig.folder.root / outcome.aside}:")
        for item in todo.set_aside:
            console.print(f"  {item.path} ({item.reason})", markup=False)
    for path in todo.kept:
        console.print(f"  {path} is a keepsake and was left alone.", markup=False)
    for goal in todo.awaited:
        entry = next((entry for entry in release.entries if entry.mod == goal.mod), None)
        page = f" at {entry.page}" if entry and entry.page else ""
        console.print(
            f"  {goal.name} must be fetched by you{page}. Save it as {goal.target}; its SHA-256 is {goal.sha256}.",
            markup=False,
        )
    console.print(f"[bold]{status.state.capitalize()}[/] with {release.name} {release.version}.")


@app.command()
def status(into: Into = Path("."), json: offline.AsJson = False) -> None:
    """Say how the folder stands to the pack, and what differs."""
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        rig = Rig(folder, default_store(), console)
        found = rig.status()
    if json:
        offline.print_json(
            {
                "state": found.state,
                "release": found.on.version if found.on else None,
                "differences": [*found.comparison.strayed, *found.comparison.awaited],
                "open_steps": found.comparison.open_steps,
            }
        )
    else:
        _show(rig, found)
    if found.state is not State.IN_STEP:
        raise typer.Exit(offline.NO)


def _show(rig: Rig, found: Status) -> None:
    on = f"{found.on.name} {found.on.version}" if found.on else "no release yet"
    typer.echo(f"{rig.facts['pack_name']}: {found.state} (on {on})")
    rows = [*found.comparison.strayed, *found.comparison.awaited]
    if rows:
        table = Table(box=None, show_header=False)
        for row in rows:
            table.add_row(row.path, _WORDS[row.kind])
        Console().print(table)
    if found.state in (State.BEHIND, State.STRAYED):
        typer.echo("Bring it back with: convoy sync")


@app.command()
def keep(
    path: Annotated[str, typer.Argument(help="A file of yours, as seen from the game folder.")],
    into: Into = Path("."),
    remove: Annotated[bool, typer.Option("--remove", help="Let the keepsake go.")] = False,
) -> None:
    """Make a file a keepsake: updates leave it alone."""
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        Rig(folder, default_store(), console).keep(path, kept=not remove)
    typer.echo(f"{path} is {'no longer ' if remove else ''}a keepsake.")


@app.command()
def leave(
    into: Into = Path("."),
    keep_files: Annotated[bool, typer.Option("--keep-files", help="Leave the pack's files where they are.")] = False,
) -> None:
    """Stop following the pack. Its files are set aside, never deleted."""
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        rig = Rig(folder, default_store(), console)
        aside = rig.leave(keep_files=keep_files)
    typer.echo(f"{folder.root} no longer follows {rig.facts['pack_name']}.")
    if aside:
        typer.echo(f"Its files are in {folder.root / aside}.")


def _say(message: str) -> None:
    if message:
        console.print(message, markup=False)


def main() -> None:
    """Runs the command; whatever goes wrong is said in a sentence."""
    try:
        app()
    except (BadInput, DocumentError, CodeError, UnsafePath) as error:
        console.print(str(error), markup=False, style="red")
        sys.exit(2)
    except (Failed, ConvoyError) as error:
        console.print(str(error), markup=False, style="red")
        sys.exit(1)
    except KeyboardInterrupt:
        console.print("Stopped. What was under way is finished or taken back by the next command.", markup=False)
        sys.exit(130)
