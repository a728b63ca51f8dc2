"""Building fixes: edits that may mend a finding. Whether one really does is tried before it is offered."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice

from ..edits import (
    AddEntry,
    Edit,
    RemoveEntry,
    SetBuild,
    SetEnabled,
    SetGround,
    SetPathRules,
    SetPin,
    Several,
)
from ..explain import Impossible
from ..fit import is_newer
from ..model import Bridges, Channel, LoaderChoice, Requires
from ..resolve import Resolved
from .finding import Fix
from .situation import Situation


def several(edits: Sequence[Edit], label: str) -> Edit | None:
    """One edit of several; None where there is nothing to do."""
    if not edits:
        return None
    return edits[0] if len(edits) == 1 else Several(edits=tuple(edits), label=label[0].lower() + label[1:])


def fix(label: str, edits: Sequence[Edit], *, safe: bool = False) -> Fix | None:
    """A fix of some edits; None where there is nothing to do."""
    edit = several(edits, label)
    return Fix(label=label, edit=edit, safe=safe) if edit is not None else None


def _move(situation: Situation, slug: str, version: str) -> list[Edit]:
    """What brings a mod into the draft at a build: added, turned on, or set to it."""
    entry = situation.entries.get(slug) or situation.off.get(slug)
    if entry is None:
        return [AddEntry(mod=slug, version=version, chosen=False)]
    edits: list[Edit] = []
    if not entry.enabled:
        edits.append(SetEnabled(mod=slug, enabled=True))
    if entry.version != version:
        if entry.pin is not None:
            edits.append(SetPin(mod=slug, pin=None))
        edits.append(SetBuild(mod=slug, version=version))
    return edits


def _differs(situation: Situation, slug: str, version: str) -> bool:
    build = situation.build(slug)
    return build is None or build.version != version


def bring(situation: Situation, wanted: Iterable[str]) -> Fix | None:
    """Brings mods in with all they need, at the builds the whole draft resolves to."""
    answer = situation.plan
    queue = [slug for slug in wanted if slug in answer.builds]
    reached = dict.fromkeys(queue)
    while queue:
        for other in situation.plan_needs.get(queue.pop(), ()):
            if other not in reached:
                reached[other] = None
                queue.append(other)
    moving = [slug for slug in reached if _differs(situation, slug, answer.builds[slug])]
    if not moving:
        return None
    return _moved(situation, answer, moving)


def settle(situation: Situation) -> Fix | None:
    """Brings the whole draft to what it resolves to."""
    answer = situation.answer
    if isinstance(answer, Impossible):
        return None
    moving = [slug for slug, version in answer.builds.items() if _differs(situation, slug, version)]
    if not moving:
        return None
    made = _moved(situation, answer, moving)
    if made is None or len(moving) == 1:
        return made
    return Fix(label="Bring all builds in line", edit=made.edit, safe=made.safe)


def _moved(situation: Situation, answer: Resolved, moving: Sequence[str]) -> Fix | None:
    edits = [edit for slug in moving for edit in _move(situation, slug, answer.builds[slug])]
    # A pin that goes was somebody's decision.
    safe = not any(isinstance(edit, SetPin) for edit in edits)
    first = moving[0]
    label = f"{_verb(situation, first, answer.builds[first])} {situation.name(first)}"
    if len(moving) == 1:
        joint = " " if first not in situation.entries else " to "
        return fix(f"{label}{joint}{answer.builds[first]}", edits, safe=safe)
    return fix(f"{label} and {len(moving) - 1} more it needs", edits, safe=safe)


def _verb(situation: Situation, slug: str, version: str) -> str:
    build = situation.build(slug)
    if build is None:
        return "Turn on" if slug in situation.off else "Add"
    return "Raise" if is_newer(situation.mods[slug], version, build.version) else "Lower"


def set_build(situation: Situation, slug: str, version: str, *, safe: bool = True) -> Fix | None:
    """Sets an entry to another build; a pin is let go for it, which is not safe."""
    entry = situation.entries.get(slug)
    if entry is None or entry.version == version:
        return None
    label = f"{_verb(situation, slug, version)} {situation.name(slug)} to {version}"
    if entry.pin is not None:
        label, safe = f"{label} and let its pin go", False
    return fix(label, _move(situation, slug, version), safe=safe)


def other_builds(situation: Situation, slug: str, *, safe: bool = True, at_most: int = 6) -> Iterator[Fix | None]:
    """Other builds that suit the ground, newest first."""
    entry = situation.entries.get(slug)
    if entry is None:
        return
    others = (build for build in situation.takeable(slug) if build.version != entry.version)
    for build in islice(others, at_most):
        yield set_build(situation, slug, build.version, safe=safe)


def turn_off(situation: Situation, slug: str) -> Fix | None:
    """Turns an entry off, and all that cannot do without it."""
    off = {slug: None}
    queue = [slug]
    while queue:
        gone = queue.pop()
        for other in sorted(situation.near([gone]) - off.keys()):
            if other in situation.entries and _needs_one_of(situation, other, off):
                off[other] = None
                queue.append(other)
    names = situation.name(slug) + (f" and {len(off) - 1} that need it" if len(off) > 1 else "")
    if len(off) == 2:
        names = f"{situation.name(slug)} and {situation.name(list(off)[1])}, which needs it"
    return fix(f"Turn off {names}", [SetEnabled(mod=mod, enabled=False) for mod in off])


def _needs_one_of(situation: Situation, slug: str, off: dict[str, None]) -> bool:
    build = situation.build(slug)
    for relation in build.relations if build else ():
        if isinstance(relation, Requires):
            met = situation.meets(slug, relation)
            if met and not set(met) - off.keys():
                return True
        if isinstance(relation, Bridges) and off.keys() & set(relation.mods):
            return True
    return False


def remove(situation: Situation, slugs: Sequence[str], *, safe: bool = False) -> Fix | None:
    """Takes entries out of the draft."""
    names = situation.name(slugs[0]) + (f" and {len(slugs) - 1} more" if len(slugs) > 1 else "")
    return fix(f"Remove {names}", [RemoveEntry(mod=slug) for slug in slugs], safe=safe)


def replace_with(situation: Situation, slug: str, other: str) -> Fix | None:
    """Puts another mod in an entry's place, at its newest fitting build."""
    build = next(situation.takeable(other), None)
    if build is None or other in situation.entries or other in situation.off:
        return None
    edits: list[Edit] = [RemoveEntry(mod=slug), AddEntry(mod=other, version=build.version)]
    return fix(f"Replace {situation.name(slug)} by {situation.name(other)} {build.version}", edits)


def leave_out(situation: Situation, slug: str, sources: Sequence[str | None]) -> Fix | None:
    """Leaves files of an entry's archive out by path rules; a file that is placed whole cannot be."""
    entry = situation.entries.get(slug)
    inner = [source for source in sources if source is not None]
    if entry is None or len(inner) != len(sources) or not inner or len(inner) > 200:
        return None
    drop = (*entry.drop, *(_literal(source) for source in inner))
    what = inner[0] if len(inner) == 1 else f"{len(inner)} files"
    return fix(f"Leave out {what} of {situation.name(slug)}", [SetPathRules(mod=slug, keep=entry.keep, drop=drop)])


def _literal(path: str) -> str:
    """A glob that means exactly this path."""
    return "".join(f"[{c}]" if c in "*?[" else c for c in path)


def ground(
    situation: Situation,
    label: str,
    *,
    game_version: str | None = None,
    loader: LoaderChoice | None = None,
    floor: Channel | None = None,
    safe: bool = False,
) -> Fix | None:
    """Moves the draft to another ground, the rest of it unchanged."""
    pack = situation.pack
    edit = SetGround(
        game_version=game_version or pack.game_version,
        loader=loader or pack.loader,
        channel_floor=floor or pack.channel_floor,
    )
    return fix(label, [edit], safe=safe)


def only_folder(situation: Situation, slug: str, folder: str) -> Fix | None:
    """Keeps only one folder of an entry's archive."""
    entry = situation.entries.get(slug)
    if entry is None or not folder:
        return None
    keep = (f"{_literal(folder)}/**",)
    return fix(f"Take only {folder}", [SetPathRules(mod=slug, keep=keep, drop=entry.drop)])
