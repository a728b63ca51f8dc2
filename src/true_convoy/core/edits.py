"""Edits: the small values a curator's clicks become, and what they do to a pack.

An edit needs no catalogue to be applied, so a stored edit always gives the same pack. ``touches`` names what an edit
is about; edits made at the same time merge when they touch nothing in common.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import reduce
from typing import Annotated, Any

import msgspec
from msgspec import Meta
from msgspec.structs import replace

from .errors import DocumentError, EditRefused
from .model import Channel, Entry, Label, LoaderChoice, Pack, Pin, Record, Sides, Slug, VersionText

Text = Annotated[str, Meta(max_length=2000)]
Globs = tuple[Annotated[str, Meta(min_length=1, max_length=300)], ...]


class AddEntry(Record, frozen=True, kw_only=True, tag_field="do", tag="add"):
    """Adds a mod at a build; ``chosen`` False where it only comes along."""

    mod: Slug
    version: VersionText | None = None
    chosen: bool = True


class RemoveEntry(Record, frozen=True, kw_only=True, tag_field="do", tag="remove"):
    """Takes a mod out of the draft."""

    mod: Slug


class SetBuild(Record, frozen=True, kw_only=True, tag_field="do", tag="set-build"):
    """Chooses another build of an entry."""

    mod: Slug
    version: VersionText | None


class SetEnabled(Record, frozen=True, kw_only=True, tag_field="do", tag="set-enabled"):
    """Turns an entry on or off."""

    mod: Slug
    enabled: bool


class SetChosen(Record, frozen=True, kw_only=True, tag_field="do", tag="set-chosen"):
    """Makes a brought-along entry a chosen one, or the other way round."""

    mod: Slug
    chosen: bool


class SetPin(Record, frozen=True, kw_only=True, tag_field="do", tag="set-pin"):
    """Pins an entry with a reason, or lets it go with None."""

    mod: Slug
    pin: Pin | None


class SetOptional(Record, frozen=True, kw_only=True, tag_field="do", tag="set-optional"):
    """Lets members choose whether they take an entry."""

    mod: Slug
    optional: bool


class SetSides(Record, frozen=True, kw_only=True, tag_field="do", tag="set-sides"):
    """Says which sides get an entry; None as the mod itself says."""

    mod: Slug
    sides: Sides | None


class SetPathRules(Record, frozen=True, kw_only=True, tag_field="do", tag="set-path-rules"):
    """Which files of an archive are kept and which are dropped, as globs."""

    mod: Slug
    keep: Globs
    drop: Globs


class SetNote(Record, frozen=True, kw_only=True, tag_field="do", tag="set-note"):
    """A note at an entry."""

    mod: Slug
    note: Text


class SetGround(Record, frozen=True, kw_only=True, tag_field="do", tag="set-ground"):
    """Moves the draft to another game version, loader or channel floor."""

    game_version: VersionText
    loader: LoaderChoice | None
    channel_floor: Channel


class SetDetails(Record, frozen=True, kw_only=True, tag_field="do", tag="set-details"):
    """Renames the pack or changes its purpose."""

    name: Label
    purpose: Label


class Several(Record, frozen=True, kw_only=True, tag_field="do", tag="several"):
    """Edits that are made and undone as one."""

    edits: Annotated[tuple["Edit", ...], Meta(min_length=1, max_length=20000)]
    label: Text = ""


Edit = (
    AddEntry
    | RemoveEntry
    | SetBuild
    | SetEnabled
    | SetChosen
    | SetPin
    | SetOptional
    | SetSides
    | SetPathRules
    | SetNote
    | SetGround
    | SetDetails
    | Several
)
EntryEdit = SetBuild | SetEnabled | SetChosen | SetPin | SetOptional | SetSides | SetPathRules | SetNote


def edit_from(raw: Any) -> Edit:
    """The edit of plain JSON values. Raises DocumentError where it is none."""
    try:
        edit: Edit = msgspec.convert(raw, Edit)
    except (msgspec.ValidationError, RecursionError) as error:
        raise DocumentError("$", f"this is not an edit ({error})") from None
    if isinstance(edit, Several) and any(isinstance(part, Several) for part in edit.edits):
        raise DocumentError("$", "edits made as one cannot hold further bundles of edits")
    return edit


def edit_to(edit: Edit) -> dict[str, Any]:
    """Plain JSON values of an edit."""
    return msgspec.to_builtins(edit)  # type: ignore[no-any-return]


def apply(pack: Pack, edit: Edit) -> Pack:
    """The pack after an edit. Raises EditRefused with a sentence if it does not apply."""
    match edit:
        case Several():
            return reduce(apply, edit.edits, pack)
        case AddEntry():
            if pack.entry(edit.mod):
                raise EditRefused(f'"{edit.mod}" is already in the draft.')
            added = Entry(mod=edit.mod, version=edit.version, chosen=edit.chosen)
            return replace(pack, entries=(*pack.entries, added))
        case RemoveEntry():
            _entry(pack, edit.mod)
            return replace(pack, entries=tuple(entry for entry in pack.entries if entry.mod != edit.mod))
        case SetGround():
            return replace(pack, game_version=edit.game_version, loader=edit.loader, channel_floor=edit.channel_floor)
        case SetDetails():
            return replace(pack, name=edit.name, purpose=edit.purpose)
        case _:
            return _with_entry(pack, edit.mod, lambda entry: _changed(entry, edit))


def _changed(entry: Entry, edit: EntryEdit) -> Entry:
    match edit:
        case SetBuild():
            if entry.pin is not None and edit.version != entry.version:
                raise EditRefused(f'"{entry.mod}" is pinned at {entry.version}; let the pin go first.')
            return replace(entry, version=edit.version)
        case SetPathRules():
            return replace(entry, keep=edit.keep, drop=edit.drop)
        case _:
            changes = {field: getattr(edit, field) for field in edit.__struct_fields__ if field != "mod"}
            return replace(entry, **changes)


def _entry(pack: Pack, mod: str) -> Entry:
    entry = pack.entry(mod)
    if entry is None:
        raise EditRefused(f'"{mod}" is not in the draft any more.')
    return entry


def _with_entry(pack: Pack, mod: str, change: Callable[[Entry], Entry]) -> Pack:
    changed = change(_entry(pack, mod))
    return replace(pack, entries=tuple(changed if entry.mod == mod else entry for entry in pack.entries))


def touches(edit: Edit) -> frozenset[str]:
    """What an edit is about: ``entry:SLUG``, ``ground`` or ``details``."""
    match edit:
        case Several():
            return frozenset[str]().union(*(touches(part) for part in edit.edits))
        case SetGround():
            return frozenset({"ground"})
        case SetDetails():
            return frozenset({"details"})
        case _:
            return frozenset({f"entry:{edit.mod}"})


def clashing(edit: Edit, others: Sequence[Edit]) -> frozenset[str]:
    """What an edit and edits made meanwhile both touch; empty if they merge."""
    return touches(edit) & frozenset[str]().union(*(touches(other) for other in others))


def in_words(edit: Edit, names: Mapping[str, str]) -> str:
    """An edit as one line of the history; ``names`` says what people call mods."""
    mod = names.get(edit.mod, edit.mod) if hasattr(edit, "mod") else ""
    match edit:
        case Several():
            return edit.label or f"{len(edit.edits)} changes"
        case AddEntry():
            at = f" {edit.version}" if edit.version else ""
            return f"added {mod}{at}" + ("" if edit.chosen else " (brought along)")
        case RemoveEntry():
            return f"removed {mod}"
        case SetBuild():
            return f"set {mod} to {edit.version or 'any fitting build'}"
        case SetEnabled():
            return f"turned {'on' if edit.enabled else 'off'} {mod}"
        case SetChosen():
            return f"made {mod} {'a chosen entry' if edit.chosen else 'a brought-along entry'}"
        case SetPin():
            return f"pinned {mod}: {edit.pin.reason}" if edit.pin else f"let the pin of {mod} go"
        case SetOptional():
            return f"made {mod} {'optional' if edit.optional else 'part of every rig'}"
        case SetSides():
            return f"changed the sides of {mod}"
        case SetPathRules():
            return f"changed the path rules of {mod}"
        case SetNote():
            return f"changed the note of {mod}"
        case SetGround():
            loader = f" with {edit.loader.slug} {edit.loader.version or ''}".rstrip() if edit.loader else ""
            return f"moved to game version {edit.game_version}{loader}"
        case SetDetails():
            return f'named the pack "{edit.name}"'
