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
from .model import (
    Accepted,
    Channel,
    Digest,
    Entry,
    Label,
    LoaderChoice,
    Pack,
    Pin,
    Record,
    Runtime,
    Setting,
    Sides,
    Slug,
    VersionText,
)

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
    """Lets members choose whether they take an entry, or which one of a named group of entries."""

    mod: Slug
    optional: bool
    by_default: bool = True
    one_of: Annotated[str, Meta(max_length=100)] = ""


class SetSides(Record, frozen=True, kw_only=True, tag_field="do", tag="set-sides"):
    """Says which sides get an entry; None as the mod itself says."""

    mod: Slug
    sides: Sides | None


class SetPathRules(Record, frozen=True, kw_only=True, tag_field="do", tag="set-path-rules"):
    """Which files of an archive are kept and which are dropped, as globs."""

    mod: Slug
    keep: Globs
    drop: Globs


class SetLabel(Record, frozen=True, kw_only=True, tag_field="do", tag="set-label"):
    """Puts an entry under a label of the curators' own, or under none."""

    mod: Slug
    label: Annotated[str, Meta(max_length=60)]


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
    """Renames the pack, or changes its purpose, the label it is listed under, or its emblem."""

    name: Label
    purpose: Label
    label: Annotated[str, Meta(max_length=60)] = ""
    emblem: Annotated[str, Meta(max_length=100)] = ""
    picture: Digest | None = None


class SetFair(Record, frozen=True, kw_only=True, tag_field="do", tag="set-fair"):
    """Says whether the pack plays fair: whether it leaves progression alone."""

    fair: bool


class SetRuntime(Record, frozen=True, kw_only=True, tag_field="do", tag="set-runtime"):
    """Says what the pack asks of a machine."""

    runtime: Runtime


class SetLoadOrder(Record, frozen=True, kw_only=True, tag_field="do", tag="set-load-order"):
    """Puts entries into an order of loading, first to last; others keep what they have."""

    mods: Annotated[tuple[Slug, ...], Meta(max_length=20000)]


class SetSetting(Record, frozen=True, kw_only=True, tag_field="do", tag="set-setting"):
    """Gives a setting a value."""

    setting: Setting


class RemoveSetting(Record, frozen=True, kw_only=True, tag_field="do", tag="remove-setting"):
    """Takes a setting out of the pack."""

    file: str
    key: str


class RemoveFile(Record, frozen=True, kw_only=True, tag_field="do", tag="remove-file"):
    """Takes one of the pack's own files out of it."""

    path: str


class Accept(Record, frozen=True, kw_only=True, tag_field="do", tag="accept"):
    """Accepts a caution with a reason, for as long as its facts stay the same."""

    code: Slug
    mods: tuple[Slug, ...]
    facts: Annotated[str, Meta(max_length=64)]
    reason: Annotated[str, Meta(min_length=1, max_length=2000)]


class Unaccept(Record, frozen=True, kw_only=True, tag_field="do", tag="unaccept"):
    """Takes the acceptance of a caution back."""

    code: Slug
    mods: tuple[Slug, ...]
    facts: str


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
    | SetLabel
    | SetNote
    | SetGround
    | SetDetails
    | SetFair
    | SetRuntime
    | SetLoadOrder
    | SetSetting
    | RemoveSetting
    | RemoveFile
    | Accept
    | Unaccept
    | Several
)
EntryEdit = SetBuild | SetEnabled | SetChosen | SetPin | SetOptional | SetSides | SetPathRules | SetLabel | SetNote


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


def parts(edit: Edit) -> tuple[Edit, ...]:
    """The single edits of an edit."""
    return edit.edits if isinstance(edit, Several) else (edit,)


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
            about = {key: getattr(edit, key) for key in ("name", "purpose", "label", "emblem", "picture")}
            return replace(pack, **about)
        case SetFair():
            return replace(pack, fair=edit.fair)
        case SetRuntime():
            return replace(pack, runtime=edit.runtime)
        case SetLoadOrder():
            return _reordered(pack, edit.mods)
        case SetSetting() | RemoveSetting() | RemoveFile():
            return _without_or_with(pack, edit)
        case Accept() | Unaccept():
            return _accepting(pack, edit)
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


def _reordered(pack: Pack, mods: Sequence[str]) -> Pack:
    for mod in mods:
        _entry(pack, mod)
    place = {mod: index for index, mod in enumerate(mods)}
    entries = (replace(entry, order=place.get(entry.mod, entry.order)) for entry in pack.entries)
    return replace(pack, entries=tuple(entries))


def _without_or_with(pack: Pack, edit: SetSetting | RemoveSetting | RemoveFile) -> Pack:
    if isinstance(edit, RemoveFile):
        if all(file.path != edit.path for file in pack.files):
            raise EditRefused(f'"{edit.path}" is not among the pack\'s own files any more.')
        return replace(pack, files=tuple(file for file in pack.files if file.path != edit.path))
    about = edit.setting if isinstance(edit, SetSetting) else edit
    rest = tuple(one for one in pack.settings if (one.file, one.key) != (about.file, about.key))
    if isinstance(edit, SetSetting):
        return replace(pack, settings=(*rest, edit.setting))
    if len(rest) == len(pack.settings):
        raise EditRefused(f'"{edit.key}" of "{edit.file}" is not among the pack\'s settings any more.')
    return replace(pack, settings=rest)


def _accepting(pack: Pack, edit: Accept | Unaccept) -> Pack:
    rest = tuple(one for one in pack.accepted if (one.code, one.mods) != (edit.code, edit.mods))
    if isinstance(edit, Accept):
        made = Accepted(code=edit.code, mods=edit.mods, facts=edit.facts, reason=edit.reason)
        return replace(pack, accepted=(*rest, made))
    return replace(pack, accepted=rest)


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
        case SetDetails() | SetFair():
            return frozenset({"details"})
        case SetRuntime():
            return frozenset({"runtime"})
        case SetLoadOrder():
            return frozenset({"load-order"})
        case SetSetting():
            return frozenset({f"setting:{edit.setting.file}:{edit.setting.key}"})
        case RemoveSetting():
            return frozenset({f"setting:{edit.file}:{edit.key}"})
        case RemoveFile():
            return frozenset({f"file:{edit.path}"})
        case Accept() | Unaccept():
            return frozenset({f"accepted:{edit.code}:{','.join(edit.mods)}"})
        case _:
            return frozenset({f"entry:{edit.mod}"})


def clashing(edit: Edit, others: Sequence[Edit]) -> frozenset[str]:
    """What an edit and edits made meanwhile both touch; empty if they merge."""
    return touches(edit) & frozenset[str]().union(*(touches(other) for other in others))


def in_words(edit: Edit, names: Mapping[str, str]) -> str:
    """An edit as one line of the history; ``names`` says what people call mods and loaders."""
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
            if not edit.optional:
                return f"made {mod} part of every rig"
            group = f', one of "{edit.one_of}"' if edit.one_of else ""
            return f"made {mod} optional{group}, {'there' if edit.by_default else 'left out'} by default"
        case SetSides():
            return f"changed the sides of {mod}"
        case SetPathRules():
            return f"changed the path rules of {mod}"
        case SetLabel():
            return f'put {mod} under "{edit.label}"' if edit.label else f"took {mod} from under its label"
        case SetNote():
            said = f": {edit.note[:120]}" if edit.note else ""
            return f"changed the note of {mod}{said}"
        case SetGround():
            if edit.loader is None:
                return f"moved to game version {edit.game_version}"
            named = f"{names.get(edit.loader.slug, edit.loader.slug)} {edit.loader.version or ''}".rstrip()
            return f"moved to game version {edit.game_version} with {named}"
        case SetFair():
            return "said that the pack plays fair" if edit.fair else "took back that the pack plays fair"
        case SetRuntime():
            return "changed what the pack asks of a machine"
        case SetLoadOrder():
            return "changed the load order"
        case SetSetting():
            return f"set {edit.setting.key} of {edit.setting.file}"
        case RemoveSetting():
            return f"took {edit.key} of {edit.file} out of the settings"
        case RemoveFile():
            return f"took the file {edit.path} out of the pack"
        case Accept():
            return f"accepted a caution ({edit.code}): {edit.reason}"
        case Unaccept():
            return f"no longer accepts a caution ({edit.code})"
        case SetDetails():
            label = f', listed under "{edit.label}"' if edit.label else ""
            return f'named the pack "{edit.name}"{label}'
