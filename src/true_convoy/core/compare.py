"""What changed between two packs or releases, and how large a step it is.

An entry is *added*, *removed*, *raised*, *lowered* (its version), or *changed* (anything else about it that a member
or curator would notice). Pack and release documents compare with each other; entries that are off count as absent.
"""

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from .model import Entry, Pack, Release, ReleaseEntry, SaveEffect
from .order import wish
from .versions import Scheme, guess_scheme, semver_numbers, sort_key


@dataclass(frozen=True, kw_only=True)
class EntryChange:
    """One entry's change; versions are None where an entry is absent or takes any build."""

    mod: str
    name: str
    old: str | None = None
    new: str | None = None
    what: tuple[str, ...] = ()
    loses_saves: bool = False


@dataclass(frozen=True, kw_only=True)
class Difference:
    """All that differs, each list sorted by mod; ``ground`` and ``other`` hold sentences, ``count`` is of all."""

    added: tuple[EntryChange, ...]
    removed: tuple[EntryChange, ...]
    raised: tuple[EntryChange, ...]
    lowered: tuple[EntryChange, ...]
    changed: tuple[EntryChange, ...]
    ground: tuple[str, ...]
    other: tuple[str, ...]
    count: int


def compare(
    old: Pack | Release, new: Pack | Release, schemes: Mapping[str, Scheme] | None = None, names: Mapping[str, str] = {}
) -> Difference:
    """The difference from ``old`` to ``new``. ``schemes`` gives version schemes by mod; else they are guessed."""
    before = {entry.mod: entry for entry in old.entries if entry.enabled}
    after = {entry.mod: entry for entry in new.entries if entry.enabled}

    def change(mod: str, what: tuple[str, ...] = ()) -> EntryChange:
        one, two = before.get(mod), after.get(mod)
        return EntryChange(
            mod=mod,
            name=names.get(mod) or _name(two) or _name(one) or mod,
            old=one.version if one else None,
            new=two.version if two else None,
            what=what,
            loses_saves=isinstance(one, ReleaseEntry) and one.save_effect is SaveEffect.LOSES,
        )

    raised: list[EntryChange] = []
    lowered: list[EntryChange] = []
    changed: list[EntryChange] = []
    moved = _moved(before, after)
    for mod in sorted(before.keys() & after.keys()):
        one, two = before[mod].version, after[mod].version
        if one != two and one is not None and two is not None:
            scheme = (schemes or {}).get(mod) or guess_scheme(one, two)
            higher = (sort_key(scheme, two), two) > (sort_key(scheme, one), one)
            (raised if higher else lowered).append(change(mod))
        what = tuple(_entry_changes(before[mod], after[mod]))
        what += ("has another place in the load order",) if mod in moved else ()
        if what:
            changed.append(change(mod, what))
    added = tuple(change(mod) for mod in sorted(after.keys() - before.keys()))
    removed = tuple(change(mod) for mod in sorted(before.keys() - after.keys()))
    ground, other = tuple(_ground(old, new)), tuple(_other(old, new))
    return Difference(
        added=added,
        removed=removed,
        raised=tuple(raised),
        lowered=tuple(lowered),
        changed=tuple(changed),
        ground=ground,
        other=other,
        count=sum(len(part) for part in (added, removed, raised, lowered, changed, ground, other)),
    )


def _moved(before: Mapping[str, Entry], after: Mapping[str, Entry]) -> set[str]:
    """The fewest entries of both that must have moved for the one order to become the other."""
    if all(entry.order is None for entry in (*before.values(), *after.values())):
        return set()
    old = [mod for mod in sorted(before, key=lambda mod: wish(before[mod])) if mod in after]
    rank = {mod: i for i, mod in enumerate(m for m in sorted(after, key=lambda m: wish(after[m])) if m in before)}
    # The longest rising run of new ranks stays; patience sorting with links back.
    tops: list[int] = []
    piles: list[str] = []
    behind: dict[str, str | None] = {}
    for mod in old:
        at = bisect_left(tops, rank[mod])
        behind[mod] = piles[at - 1] if at else None
        tops[at : at + 1] = [rank[mod]]
        piles[at : at + 1] = [mod]
    staying = piles[-1] if piles else None
    stay: set[str] = set()
    while staying is not None:
        stay.add(staying)
        staying = behind[staying]
    return set(old) - stay


def _name(entry: Entry | None) -> str:
    return entry.name if isinstance(entry, ReleaseEntry) else ""


def _entry_changes(one: Entry, two: Entry) -> Iterator[str]:
    if one.version != two.version and None in (one.version, two.version):
        yield f"takes {two.version or 'any fitting build'} instead of {one.version or 'any fitting build'}"
    if one.optional != two.optional:
        yield "is now optional" if two.optional else "is now part of every rig"
    elif one.optional and (one.by_default, one.one_of) != (two.by_default, two.one_of):
        yield "is offered to members in another way"
    # A release says the sides in full, a draft only where the curator changed them: unequal kinds cannot tell.
    if isinstance(one, ReleaseEntry) == isinstance(two, ReleaseEntry) and one.sides != two.sides:
        yield "goes to other sides"
    if (one.keep, one.drop) != (two.keep, two.drop):
        yield "takes other files of its archive"
    if isinstance(one, ReleaseEntry) and isinstance(two, ReleaseEntry):
        same_file = one.file.sha256 == two.file.sha256
        if one.version == two.version and not same_file:
            yield "has another file under the same version"


def _ground(old: Pack | Release, new: Pack | Release) -> Iterator[str]:
    if old.game != new.game:
        yield f"Game {old.game} became {new.game}."
    if old.game_version != new.game_version:
        yield f"Game version {old.game_version} became {new.game_version}."
    if old.loader != new.loader:
        yield f"Loader {_loader(old)} became {_loader(new)}."


def _loader(pack: Pack | Release) -> str:
    return f"{pack.loader.slug} {pack.loader.version or 'of any version'}" if pack.loader else "none"


def _other(old: Pack | Release, new: Pack | Release) -> Iterator[str]:
    if old.name != new.name:
        yield f"The pack is called {new.name} instead of {old.name}."
    pairs: tuple[tuple[str, dict[Any, object], dict[Any, object]], ...] = (
        ("setting", {(s.file, s.key): s for s in old.settings}, {(s.file, s.key): s for s in new.settings}),
        ("file", {f.path: f for f in old.files}, {f.path: f for f in new.files}),
        ("step", {s.id: s for s in old.steps}, {s.id: s for s in new.steps}),
    )
    for what, one, two in pairs:
        for count, verb in (
            (len(two.keys() - one.keys()), "added"),
            (len(one.keys() - two.keys()), "removed"),
            (sum(one[key] != two[key] for key in one.keys() & two.keys()), "changed"),
        ):
            if count:
                yield f"{count} {what}{'s' if count > 1 else ''} {verb}."


def as_json(difference: Difference) -> dict[str, Any]:
    """The difference as plain JSON values."""
    return msgspec.to_builtins(difference)  # type: ignore[no-any-return]


def as_markdown(difference: Difference) -> str:
    """The difference as a CommonMark list, for a change log."""
    lines = [*difference.ground]
    for title, changes in (
        ("Added", difference.added),
        ("Removed", difference.removed),
        ("Raised", difference.raised),
        ("Lowered", difference.lowered),
        ("Changed", difference.changed),
    ):
        if changes:
            lines += ["", f"**{title}**", "", *(f"- {_line(title, change)}" for change in changes)]
    if difference.other:
        lines += ["", "**Also**", "", *(f"- {sentence}" for sentence in difference.other)]
    return "\n".join(lines).strip() + "\n" if lines else "Nothing changed.\n"


def _line(title: str, change: EntryChange) -> str:
    match title:
        case "Added":
            return f"{change.name} {change.new or ''}".rstrip()
        case "Removed":
            return f"{change.name} {change.old or ''}".rstrip()
        case "Changed":
            return f"{change.name}: {'; '.join(change.what)}"
        case _:
            return f"{change.name} {change.old} to {change.new}"


def next_version(last: str | None, difference: Difference | None) -> str:
    """The version number proposed for a release, by the size of its change.

    Another ground, or an entry gone, is a major step; an entry added, lowered, or raised by more than a patch is a
    minor one; all else is a patch. The first release is 1.0.0.
    """
    numbers = semver_numbers(last) if last is not None else None
    if numbers is None or difference is None:
        return "1.0.0"
    major, minor, patch = numbers
    if difference.ground or difference.removed:
        return f"{major + 1}.0.0"
    if difference.added or difference.lowered or any(_large(change) for change in difference.raised):
        return f"{major}.{minor + 1}.0"
    return f"{major}.{minor}.{patch + 1}"


def _large(change: EntryChange) -> bool:
    old, new = semver_numbers(change.old or ""), semver_numbers(change.new or "")
    return old is None or new is None or old[:2] != new[:2]
