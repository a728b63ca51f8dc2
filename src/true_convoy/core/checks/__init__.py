"""The checks: everything wrong with a draft, found before anybody starts the game.

Pure functions over a draft, the part of the catalogue it reaches, and its last release. A family is a module; each of
its checks looks at one entry or at the whole draft, and all stand in one of the two lists below. A fix is offered only
after it was tried: it removes its finding and adds no stop. Entries are looked at one by one, so that trying a fix
looks at the entry it changes and at those that say something about it, not at the whole draft again.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Set
from dataclasses import dataclass

from ..edits import AddEntry, Edit, SetChosen, SetEnabled, SetGround, SetPin, SetSides, Several, parts, touches
from ..errors import EditRefused
from ..explain import Impossible
from ..model import Catalogue, Pack, Release
from . import dependencies, files, ground, publishing, sides, tuning, upkeep
from .finding import Finding, Fix, Found, Grade, Mend
from .situation import Situation

Whole = Callable[[Situation], Iterator[Found]]
OfEntry = Callable[[Situation, str], Iterator[Found]]

OF_ENTRY: tuple[OfEntry, ...] = (
    ground.about_entry,
    dependencies.about_entry,
    files.about_entry,
    sides.about_entry,
    publishing.about_entry,
    upkeep.about_entry,
)
WHOLE: tuple[Whole, ...] = (
    ground.whole,
    publishing.resolvable,
    dependencies.twice,
    dependencies.beside,
    dependencies.orphans,
    dependencies.missing_bridges,
    files.overlaps,
    files.collisions,
    files.game_files,
    files.overhauls,
    files.circles,
    sides.reach,
    publishing.bundled_files,
    publishing.save_loss,
    tuning.settings,
    tuning.memory,
)
# The checks of single entries and of the whole draft that can say stop, but for the one that asks the solver.
_STOPPING_OF_ENTRY = (ground.about_entry, dependencies.about_entry, sides.about_entry, publishing.about_entry)
_STOPPING = (ground.whole, dependencies.twice, files.overhauls)
_FIXES = 3
# Where very much is wrong, fixes are worked out for the gravest findings; the rest get theirs once those are mended.
_WITH_FIXES = 500
_ORDER = {Grade.STOP: 0, Grade.CAUTION: 1, Grade.NOTE: 2}
Identity = tuple[str, tuple[str, ...], tuple[str, ...]]


@dataclass(frozen=True, kw_only=True)
class Mending:
    """What mending all that has one safe answer does: the one edit, and the labels of the fixes it is made of."""

    edit: Edit | None
    labels: tuple[str, ...]
    left: int


def check(pack: Pack, catalogue: Catalogue, last: Release | None = None) -> tuple[Finding, ...]:
    """All findings, stops first, in an order that does not depend on the order of the lists."""
    situation = Situation(pack, catalogue, last)
    accepted = {(one.code, one.mods, one.facts): one.reason for one in pack.accepted}
    everything = sorted(_all(situation), key=lambda pair: (_ORDER[pair[0].grade], *pair[0].identity, pair[0].paths))
    return tuple(
        _finished(situation, found, again, accepted, with_fixes=number < _WITH_FIXES)
        for number, (found, again) in enumerate(everything)
    )


def mend_all(pack: Pack, catalogue: Catalogue, last: Release | None = None) -> Mending:
    """Applies, one after the other, the fix of every finding that has one safe answer."""
    situation = Situation(pack, catalogue, last)
    edits: list[Edit] = []
    labels: list[str] = []
    tried: set[Identity] = set()
    mended = True
    while mended:
        mended = False
        for found, again in list(_all(situation)):
            there = any(other.identity == found.identity for other in again(situation))
            fix = _one_safe(situation, found, again) if there and found.identity not in tried else None
            if fix is not None:
                mended = True
                tried.add(found.identity)
                edits += parts(fix.edit)
                labels.append(fix.label)
                situation = situation.after(fix.edit)
    left = sum(found.grade is not Grade.NOTE for found, _ in _all(situation))
    label = f"mended {len(labels)} finding{'s' if len(labels) != 1 else ''}"
    edit = Several(edits=tuple(edits), label=label) if edits else None
    return Mending(edit=edit, labels=tuple(labels), left=left)


def _all(situation: Situation) -> Iterator[tuple[Found, Whole]]:
    """Every finding with the function that would find it again."""
    seen: set[Identity] = set()
    for of_entry in OF_ENTRY:
        for slug in sorted(situation.entries):
            again = _at(of_entry, slug)
            for found in sorted(again(situation), key=_by_facts):
                if found.identity not in seen:
                    seen.add(found.identity)
                    yield found, again
    for whole in WHOLE:
        for found in sorted(whole(situation), key=_by_facts):
            if found.identity not in seen:
                seen.add(found.identity)
                yield found, whole


def _by_facts(found: Found) -> tuple[object, ...]:
    return found.code, found.mods, found.paths, found.facts, found.message


def _at(of_entry: OfEntry, slug: str) -> Whole:
    return lambda situation: of_entry(situation, slug) if slug in situation.entries else iter(())


def _finished(
    situation: Situation,
    found: Found,
    again: Whole,
    accepted: Mapping[tuple[str, tuple[str, ...], str], str],
    *,
    with_fixes: bool,
) -> Finding:
    fixes: list[Fix] = []
    for group in found.mends() if with_fixes else ():
        if len(fixes) == _FIXES:
            break
        fix = _first(situation, found, again, (other for other in _group(group) if other not in fixes))
        if fix is not None:
            fixes.append(fix)
    return Finding(
        code=found.code,
        grade=found.grade,
        mods=found.mods,
        paths=found.paths,
        message=found.message,
        effect=found.effect,
        fixes=tuple(fixes),
        facts=found.digest,
        accepted=accepted.get((found.code, found.mods, found.digest)) if found.grade is Grade.CAUTION else None,
    )


def _one_safe(situation: Situation, found: Found, again: Whole) -> Fix | None:
    """The safe fix that works, if there is exactly one; between several somebody must decide."""
    safe = ([fix for fix in _group(group) if fix.safe] for group in found.mends())
    working = [fix for fixes in safe if (fix := _first(situation, found, again, fixes)) is not None]
    return working[0] if len(working) == 1 else None


def _group(group: Mend) -> Iterator[Fix]:
    yield from (fix for fix in ((group,) if isinstance(group, Fix) else group or ()) if fix is not None)


def _first(situation: Situation, found: Found, again: Whole, fixes: Iterable[Fix]) -> Fix | None:
    return next((fix for fix in fixes if _mends(situation, found, again, fix)), None)


def _mends(situation: Situation, found: Found, again: Whole, fix: Fix) -> bool:
    """Whether a fix removes its finding and adds no stop."""
    try:
        after = situation.after(fix.edit)
    except EditRefused:
        return False
    if any(other.identity == found.identity for other in again(after)):
        return False
    touched = touches(fix.edit)
    changed = {about.removeprefix("entry:") for about in touched if about.startswith("entry:")}
    local = len(changed) == len(touched) and situation.settled and after.settled
    if not local:
        changed = situation.entries.keys() | after.entries.keys()
    meant = changed | situation.carried_by(changed) | after.carried_by(changed)
    near = {slug for mod in meant for slug in situation.mentioned_by.get(mod, ())} - changed
    stops = _stops(after, changed, near, meant)
    if found.identity in stops or stops - _stops(situation, changed, near, meant):
        return False
    harmless = local and not any(_adds_a_root(part) for part in parts(fix.edit))
    return harmless or isinstance(situation.answer, Impossible) or not isinstance(after.answer, Impossible)


def _adds_a_root(edit: Edit) -> bool:
    """Whether an edit can make the rest impossible: only what must be there can."""
    match edit:
        case AddEntry() | SetChosen():
            return edit.chosen
        case SetEnabled():
            return edit.enabled
        case SetPin():
            return edit.pin is not None
        case _:
            return isinstance(edit, SetGround | SetSides)


def _stops(situation: Situation, changed: Set[str], near: Set[str], meant: Set[str]) -> set[Identity]:
    """The stops of changed entries, and those of entries near them that what was changed has a part in."""
    found = {
        one.identity
        for slug in changed & situation.entries.keys()
        for of_entry in _STOPPING_OF_ENTRY
        for one in of_entry(situation, slug)
        if one.grade is Grade.STOP
    }
    for slug in near & situation.entries.keys():
        found |= {one.identity for one in dependencies.about_entry(situation, slug, meant)}
    return found | {one.identity for whole in _STOPPING for one in whole(situation) if one.grade is Grade.STOP}


__all__ = ["Finding", "Fix", "Grade", "Mending", "check", "mend_all"]
