"""What a new pack can begin with: a starter collection, a document, a list, a folder's inventory, another pack.

Each gives a pack value and sentences about what could not be taken over. Nothing is stored here.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from true_convoy.core import documents, recognise
from true_convoy.core.assemble import preview_add
from true_convoy.core.edits import apply
from true_convoy.core.model import Entry, Game, Inventory
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.recognise import Answer

from ..access import Refusal, Who
from ..catalogue import queries as catalogue
from ..catalogue.models import Starter
from ..catalogue.search import directory, hidden_from, shelves_of
from .queries import draft, is_at_least, pack_and_role

_SHOWN = 8


@dataclass(frozen=True, kw_only=True)
class Start:
    """What a pack begins with, and what is to be said about it."""

    value: PackValue
    notes: tuple[str, ...] = ()


def on_ground(value: PackValue, game: Game) -> PackValue:
    """The value, if its game has its version and loader. Raises Refusal with a sentence."""
    if value.game_version not in [version.label for version in game.versions]:
        raise Refusal(400, "game-version", f"{game.name} has no version {value.game_version}.")
    if value.loader is not None:
        loader = game.loader(value.loader.slug)
        if loader is None:
            raise Refusal(400, "loader", f"{game.name} has no loader {value.loader.slug}.")
        if value.loader.version is not None and value.loader.version not in [one.label for one in loader.versions]:
            raise Refusal(400, "loader", f"{loader.name} has no version {value.loader.version}.")
    return value


def from_document(ground: PackValue, raw: Any, user: Any) -> Start:
    """A pack document as it is, on its own game and ground, under the name given.

    Raises DocumentError with the JSON path, or Refusal.
    """
    value = documents.from_builtins(PackValue, raw)
    about = {"name": ground.name, "purpose": ground.purpose, "label": ground.label, "emblem": ground.emblem}
    value = replace(value, slug=ground.slug, **about)
    notes = []
    hidden = set(hidden_from(user, value.game, [entry.mod for entry in value.entries]))
    known = catalogue.names(value.game, [entry.mod for entry in value.entries]).keys() - hidden
    unknown = [entry.mod for entry in value.entries if entry.mod not in known]
    if unknown:
        notes.append(
            f"The catalogue does not have {_listed(unknown)}; these stay in the draft as stops until replaced."
        )
    if value.files:
        notes.append(
            f"The document names {len(value.files)} own files, which it cannot bring along; they were left out."
        )
    entries = tuple(entry for entry in value.entries if entry.mod not in hidden)
    return Start(value=replace(value, files=(), accepted=(), entries=entries), notes=tuple(notes))


def from_starter(ground: PackValue, pk: int) -> Start:
    """A starter collection's entries on the ground given, each with a build that fits there."""
    starter = Starter.objects.filter(pk=pk, game__slug=ground.game).first()
    if starter is None:
        raise Refusal(404, "no-starter", "This starter collection is not there any more.")
    value = documents.from_builtins(PackValue, starter.document)
    chosen = [entry.mod for entry in value.entries if entry.chosen]
    return _added(replace(ground, settings=value.settings, steps=value.steps), chosen, {})


def from_text(ground: PackValue, text: str, user: Any) -> Start:
    """The mods that a text names, and what they need."""
    lines = recognise.read(text)
    found = recognise.recognise(lines, directory(ground.game, lines, shelves_of(user)), ground)
    mods = [line.mod for line in found if line.answer is Answer.FOUND and line.mod]
    versions = {line.mod: line.version for line in found if line.answer is Answer.FOUND and line.mod and line.version}
    lost = [line.text for line in found if line.answer in (Answer.UNKNOWN, Answer.UNREADABLE)]
    start = _added(ground, mods, versions)
    notes = (f"Not recognised: {_listed(lost)}.",) if lost else ()
    return Start(value=start.value, notes=(*start.notes, *notes))


def from_inventory(ground: PackValue, raw: Any, user: Any) -> Start:
    """The builds whose files an existing folder has, exactly those; what is not recognised is said."""
    inventory = documents.from_builtins(Inventory, raw)
    sums = {file.sha256: file.path for file in inventory.files}
    found, known = catalogue.in_folder(ground.game, inventory.files, shelves_of(user))
    entries = {slug: Entry(mod=slug, version=version) for slug, version in found.items()}
    lost = sorted(path for sha256, path in sums.items() if sha256 not in known)
    notes = [f"{len(known)} of {len(sums)} files were recognised."]
    if lost:
        notes.append(f"Not recognised: {_listed(lost)}. Bring them as files of your own at Assemble.")
    made = replace(ground, entries=tuple(entries[slug] for slug in sorted(entries)))
    return Start(value=made, notes=tuple(notes))


def from_pack(ground: PackValue, slug: str, user: Any, parts: Sequence[str]) -> Start:
    """A copy of another pack of the caller's: its entries, and of ``settings``, ``files`` and ``steps`` those named."""
    other, role = pack_and_role(slug, user)
    if not is_at_least(role, Who.CURATOR):
        raise Refusal(403, "role", f"Only a curator of {other.name} may copy its draft.")
    value = draft(other)[1]
    if value.game != ground.game:
        raise Refusal(409, "game", f"{other.name} is a pack of another game.")
    made = replace(
        ground,
        entries=value.entries,
        fair=value.fair,
        runtime=value.runtime,
        settings=value.settings if "settings" in parts else (),
        files=value.files if "files" in parts else (),
        steps=value.steps if "steps" in parts else (),
    )
    return Start(value=made)


def _added(ground: PackValue, mods: Sequence[str], versions: dict[str, str]) -> Start:
    """The mods with all they need, as far as they fit together; those that do not are left out and named."""
    if not mods:
        return Start(value=ground, notes=("No mod was recognised, so the pack begins empty.",))
    reached = catalogue.extract(ground.game, mods)
    names = {mod.slug: mod.name for mod in reached.mods}
    whole = preview_add(ground, reached, mods, versions, with_ways=False)
    if whole.edit is not None:
        return Start(value=apply(ground, whole.edit))
    value, left = ground, []
    for slug in mods:
        given = {slug: versions[slug]} if slug in versions else {}
        preview = preview_add(value, reached, [slug], given, with_ways=False)
        if preview.edit is not None:
            value = apply(value, preview.edit)
        elif value.entry(slug) is None:
            left.append(names.get(slug, slug))
    notes = (f"Left out, because they do not fit this ground or the others: {_listed(left)}.",) if left else ()
    return Start(value=value, notes=notes)


def _listed(texts: Sequence[str]) -> str:
    shown = ", ".join(text[:80] for text in texts[:_SHOWN])
    return shown + (f" and {len(texts) - _SHOWN} more" if len(texts) > _SHOWN else "")
