"""The offline commands of docs/formats: the same core as the server's, on documents."""

from datetime import UTC, datetime
from importlib.metadata import version as installed_version
from pathlib import Path
from typing import Annotated, Any

import msgspec
import typer
from rich.console import Console
from rich.progress import track

from true_convoy.core import documents
from true_convoy.core.checks import Grade, check
from true_convoy.core.compare import as_json, as_markdown, compare
from true_convoy.core.errors import ConvoyError, DocumentError, FreezeRefused, UnsafePath
from true_convoy.core.explain import Impossible
from true_convoy.core.fit_table import fit_table
from true_convoy.core.model import Catalogue, Inventory, Pack, Release, RigFile, Side
from true_convoy.core.paths import OWN_FOLDER, safe_path
from true_convoy.core.release import freeze
from true_convoy.core.remedies import remedies
from true_convoy.core.resolve import resolve
from true_convoy.core.sarif import as_sarif
from true_convoy.core.state import compare_inventory, state_of
from true_convoy.core.sync import differences, wanted_files

from .apply import bring_to, take_in_files, take_stock
from .folder import RigFolder
from .problems import BadInput
from .remote import read_file, read_release
from .store import default_store, sha256_of

NO = 1
messages = Console(stderr=True)
AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON value and nothing else.")]
File = Annotated[Path, typer.Argument(help="A document.")]


def print_json(value: Any) -> None:
    """One JSON value on standard output."""
    typer.echo(msgspec.json.encode(msgspec.to_builtins(value)).decode())


def _read(kind: Any, path: Path) -> Any:
    try:
        document = documents.read(kind, read_file(path))
    except DocumentError as error:
        raise BadInput(f"{path}: {error}") from None
    for note in document.notes:
        messages.print(f"Note: {path}: {note}", style="dim", markup=False)
    return document.value


def resolve_command(
    catalogue: File,
    pack: File,
    newest: Annotated[bool, typer.Option("--newest", help="Take the newest builds the rest allows.")] = False,
    json: AsJson = False,
) -> None:
    """Say which builds a pack gets, what comes along and why; or why it is impossible."""
    question, known = _read(Pack, pack), _read(Catalogue, catalogue)
    answer = resolve(question, known, newest=newest)
    if isinstance(answer, Impossible):
        ways = remedies(question, known)
        if json:
            said = {"mods": answer.mods, "explanation": answer.explanation, "remedies": ways}
            print_json({"outcome": "impossible"} | said)
        else:
            typer.echo("Impossible:\n" + "\n".join(f"  {sentence}" for sentence in answer.explanation))
            for way in ways:
                typer.echo(f"Possible if you {way.label[0].lower()}{way.label[1:]}.")
        raise typer.Exit(NO)
    if json:
        print_json({"outcome": "resolved"} | msgspec.to_builtins(answer))
        return
    for mod, version in answer.builds.items():
        why = f"  needed by {', '.join(answer.required_by[mod])}" if mod in answer.required_by else ""
        typer.echo(f"{mod} {version}{why}")


def check_command(
    catalogue: File,
    pack: File,
    last: Annotated[Path | None, typer.Option(help="The pack's last release, to see what it loses.")] = None,
    sarif: Annotated[bool, typer.Option("--sarif", help="Print a SARIF 2.1.0 log and nothing else.")] = False,
    json: AsJson = False,
) -> None:
    """Say everything that is wrong with a pack, what follows from it, and what may be done."""
    before = read_release(read_file(last))[0] if last else None
    findings = check(_read(Pack, pack), _read(Catalogue, catalogue), before)
    if sarif:
        print_json(as_sarif(findings, pack.as_posix(), read_file(pack).decode(), installed_version("true-convoy")))
    elif json:
        print_json({"findings": findings})
    else:
        for finding in findings:
            accepted = f" (accepted: {finding.accepted})" if finding.accepted else ""
            typer.echo(f"{finding.grade} {finding.code}{accepted}: {finding.message} {finding.effect}")
            for fix in finding.fixes:
                typer.echo(f"    {fix.label}")
        typer.echo(f"{len(findings)} findings" if findings else "Nothing is wrong.")
    if any(finding.grade is Grade.STOP for finding in findings):
        raise typer.Exit(NO)


def fit_command(catalogue: File, pack: File, json: AsJson = False) -> None:
    """Say per game version and loader which of a pack's mods have a build there."""
    table = fit_table(_read(Pack, pack), _read(Catalogue, catalogue))
    if json:
        print_json(table)
        return
    for cell in table.cells:
        total, here = len(cell.fitting) + len(cell.missing), " (the pack is here)" if cell.here else ""
        ground = f"{cell.game_version} {cell.loader or ''} {cell.loader_version or ''}".rstrip()
        lacking = f"; without {', '.join(cell.missing[:5])}" if cell.open and cell.missing else ""
        many = f" and {len(cell.missing) - 5} more" if cell.open and len(cell.missing) > 5 else ""
        said = f"{len(cell.fitting)} of {total}{lacking}{many}" if cell.open else "does not load this game version"
        typer.echo(f"{ground}: {said}{here}")


def freeze_command(
    catalogue: File,
    pack: File,
    version: Annotated[str, typer.Option(help="The release's version number.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="Where the release document goes.")],
    notes: Annotated[str, typer.Option(help="What changed, as CommonMark.")] = "",
    channel: Annotated[str, typer.Option(help="steady or trial")] = "steady",
    previous: Annotated[Path | None, typer.Option(help="The release before this one.")] = None,
    published: Annotated[str | None, typer.Option(help="Time of publication (RFC 3339); now if not given.")] = None,
) -> None:
    """Freeze a pack into a release document."""
    before = read_release(read_file(previous))[0].digest if previous else None
    try:
        release = freeze(
            _read(Pack, pack),
            _read(Catalogue, catalogue),
            version=version,
            published=_time(published),
            channel=channel,
            notes=notes,
            previous=before,
        )
    except FreezeRefused as refused:
        messages.print(str(refused), markup=False)
        raise typer.Exit(NO) from None
    if output.exists():
        raise BadInput(f"{output} exists already. A release never changes; give another name.")
    try:
        output.write_bytes(documents.write(release))
    except OSError as error:
        raise BadInput(f"{output} cannot be written ({error.strerror}).") from None
    messages.print(f"Release {version} with {len(release.entries)} entries: {output}", markup=False)


def _time(text: str | None) -> datetime:
    if text is None:
        return datetime.now(UTC)
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        raise BadInput(f"{text} is not a time; one looks like 2026-06-01T18:00:00Z.") from None
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


def compare_command(
    old: File,
    new: File,
    json: AsJson = False,
    markdown: Annotated[bool, typer.Option("--markdown", help="Print as CommonMark.")] = False,
) -> None:
    """Say what was added, removed, raised, lowered and changed between two packs or releases."""
    difference = compare(_pack_or_release(old), _pack_or_release(new))
    if json:
        print_json(as_json(difference))
    else:
        typer.echo(as_markdown(difference), nl=False)


def _pack_or_release(path: Path) -> Pack | Release:
    data = read_file(path)
    try:
        raw = msgspec.json.decode(data)
    except msgspec.DecodeError:
        raw = None
    release = isinstance(raw, dict) and raw.get("format") == documents.FORMATS[Release]
    found: Pack | Release = _read(Release if release else Pack, path)
    return found


def place_command(
    release: File,
    into: Annotated[Path, typer.Option(help="The folder to bring to the release.")],
    source: Annotated[Path | None, typer.Option("--from", help="A folder with files of any name.")] = None,
    side: Annotated[Side, typer.Option(help="Which half of the game the folder is.")] = Side.CLIENT,
    json: AsJson = False,
) -> None:
    """Bring a folder to a release."""
    value, data = _release(release)
    if into.parent.is_dir():
        into.mkdir(exist_ok=True)
    folder, store = RigFolder(into), default_store()
    with folder.opened() as recovered:
        _say(recovered)
        if source is not None:
            take_in_files(source, wanted_files(value, side).values(), store)
        outcome = bring_to(folder, value, data, take_stock(folder, value, side, (), ()), store, messages)
        after = take_stock(folder, value, side, (), ())
    comparison = compare_inventory(after, value)
    state = state_of(comparison, value.digest, None, datetime.now(UTC))
    if json:
        print_json(
            {
                "state": state,
                "placed": [goal.target for goal in outcome.plan.place],
                "set_aside": outcome.plan.set_aside,
                "aside": outcome.aside,
                "awaited": [{"path": g.target, "mod": g.mod, "sha256": g.sha256} for g in outcome.plan.awaited],
                "unchanged": outcome.plan.unchanged,
            }
        )
    else:
        typer.echo(
            f"{state}: {len(outcome.plan.place)} placed, {outcome.plan.unchanged} unchanged, "
            f"{len(outcome.plan.set_aside)} set aside, {len(outcome.plan.awaited)} to be fetched by a person"
        )
    if comparison.strayed or comparison.awaited:
        raise typer.Exit(NO)


def verify_command(
    release: File,
    into: Annotated[Path, typer.Option(help="The folder to look at.")],
    side: Annotated[Side, typer.Option(help="Which half of the game the folder is.")] = Side.CLIENT,
    json: AsJson = False,
) -> None:
    """Say whether a folder is in step with a release, and every difference."""
    value, _ = _release(release)
    folder = RigFolder(into)
    with folder.opened() as recovered:
        _say(recovered)
        on = folder.release() or value
        inventory = take_stock(folder, value, side, (), ())
    found = list(differences(value, side, {file.path: file for file in inventory.files}))
    state = state_of(_comparison(inventory, on), value.digest, None, datetime.now(UTC))
    if json:
        print_json({"state": state, "differences": found})
    else:
        typer.echo(state)
        for difference in found:
            typer.echo(f"  {difference.path}: {difference.kind}")
    if found or state != "in step":
        raise typer.Exit(NO)


def stocktake_command(
    folder: Annotated[Path, typer.Argument(help="The game's folder. Nothing in it is changed.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="Where the inventory document goes.")],
    side: Annotated[Side, typer.Option(help="Which half of the game the folder is.")] = Side.CLIENT,
) -> None:
    """Write down what is in a folder, so that a pack can begin with it."""
    if not folder.is_dir():
        raise BadInput(f"{folder} is not a folder.")
    paths = [path for path in sorted(folder.rglob("*")) if _is_of_the_game(path, folder)]
    files = []
    for path in track(paths, description="Reading", console=messages, disable=not messages.is_terminal):
        name = path.relative_to(folder).as_posix()
        try:
            files.append(RigFile(path=safe_path(name), size=path.stat().st_size, sha256=sha256_of(path)))
        except (OSError, UnsafePath) as error:
            messages.print(f"Left out: {error}", style="dim", markup=False)
    now = datetime.now(UTC).replace(microsecond=0)
    output.write_bytes(documents.write(Inventory(side=side, taken=now, files=tuple(files))))
    messages.print(f"{len(files)} files written down in {output}.", markup=False)


def _is_of_the_game(path: Path, folder: Path) -> bool:
    inside = path.relative_to(folder).parts
    return path.is_file() and not path.is_symlink() and inside[0] != OWN_FOLDER


def _comparison(inventory: Inventory, on: Release) -> Any:
    return compare_inventory(msgspec.structs.replace(inventory, release=on.digest), on)


def _release(path: Path) -> tuple[Release, bytes]:
    try:
        return read_release(read_file(path))
    except ConvoyError as error:
        raise BadInput(f"{path}: {error}") from None


def _say(message: str) -> None:
    if message:
        messages.print(message, markup=False)


def add_to(app: typer.Typer) -> None:
    """Adds the offline commands to the command."""
    for name, function in (
        ("resolve", resolve_command),
        ("check", check_command),
        ("fit", fit_command),
        ("freeze", freeze_command),
        ("compare", compare_command),
        ("place", place_command),
        ("verify", verify_command),
        ("stocktake", stocktake_command),
    ):
        app.command(name)(function)
