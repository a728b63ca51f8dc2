"""The smallest edits that make an impossible draft possible.

Only what a contradiction names can resolve it, so candidates come from there: a pin that goes, builds that need not be
as finished, another game version or loader version, a mod that is turned off. Sets of edits are tried by their number,
and among those of one number the gentlest first; after a set that is not enough, candidates come from what is still in
the way. The search gives up after a bounded number of questions to the solver.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from .edits import Edit, SetEnabled, SetGround, SetPin, Several, apply
from .explain import Impossible
from .fit import is_newer, loader_in_words, loader_versions
from .model import Catalogue, Channel, LoaderChoice, Pack
from .resolve import Resolved, resolve

_QUESTIONS = 60
_LARGEST = 3
_ENOUGH = 4


@dataclass(frozen=True, kw_only=True)
class Remedy:
    """Edits after which the draft resolves, and what they do in words."""

    label: str
    edit: Edit


@dataclass(frozen=True, order=True)
class _Try:
    """A candidate: the gentlest kind sorts first."""

    weight: int
    words: str
    mod: str
    edit: Edit


def remedies(pack: Pack, catalogue: Catalogue) -> tuple[Remedy, ...]:
    """Some of the smallest sets of edits that make a draft possible, gentlest first; none if it is possible."""
    answer = resolve(pack, catalogue)
    if not isinstance(answer, Impossible):
        return ()
    asked = 0
    level: list[tuple[tuple[_Try, ...], Pack, Impossible]] = [((), pack, answer)]
    for _ in range(_LARGEST):
        found: list[Remedy] = []
        following: list[tuple[tuple[_Try, ...], Pack, Impossible]] = []
        seen: set[frozenset[str]] = set()
        for made, draft, failure in level:
            for one in _candidates(draft, catalogue, failure):
                steps = (*made, one)
                if frozenset(step.words for step in steps) in seen or asked >= _QUESTIONS:
                    continue
                seen.add(frozenset(step.words for step in steps))
                asked += 1
                after = apply(draft, one.edit)
                outcome = resolve(after, catalogue)
                if _comes_back(one, outcome):
                    continue
                if isinstance(outcome, Impossible):
                    following.append((steps, after, outcome))
                else:
                    found.append(_remedy(pack, catalogue, *_fewest(pack, catalogue, steps, outcome)))
                if len(found) >= _ENOUGH:
                    return tuple(found)
        if found:
            return tuple(found)
        level = following
    return ()


def _comes_back(step: _Try, outcome: Resolved | Impossible) -> bool:
    """Whether a mod that was turned off is needed all the same, so that turning it off is no answer."""
    off = isinstance(step.edit, SetEnabled)
    return off and isinstance(outcome, Resolved) and step.mod in outcome.builds


def _fewest(
    pack: Pack, catalogue: Catalogue, steps: tuple[_Try, ...], outcome: Resolved
) -> tuple[tuple[_Try, ...], Resolved]:
    """Leaves out every step without which the rest is enough."""
    for left_out in steps:
        fewer = tuple(step for step in steps if step is not left_out)
        draft = pack
        for step in fewer:
            draft = apply(draft, step.edit)
        answer = resolve(draft, catalogue)
        if isinstance(answer, Resolved) and fewer:
            return _fewest(pack, catalogue, fewer, answer)
    return steps, outcome


def _candidates(pack: Pack, catalogue: Catalogue, failure: Impossible) -> list[_Try]:
    found: list[_Try] = []
    mods = catalogue.by_slug(pack.game)
    for entry in pack.entries:
        if entry.mod not in failure.mods or not entry.enabled:
            continue
        name = mods[entry.mod].name if entry.mod in mods else entry.mod
        if entry.pin is not None:
            found.append(_Try(0, f"let the pin of {name} go", entry.mod, SetPin(mod=entry.mod, pin=None)))
        if entry.chosen or entry.pin is not None:
            found.append(_Try(5, f"turn off {name}", entry.mod, SetEnabled(mod=entry.mod, enabled=False)))
    return sorted([*found, *_grounds(pack, catalogue)], key=lambda one: (one.weight, one.words))


def _grounds(pack: Pack, catalogue: Catalogue) -> Iterator[_Try]:
    """Less finished builds, other versions of the loader, other game versions with a version of the loader for them."""
    ground = SetGround(game_version=pack.game_version, loader=pack.loader, channel_floor=pack.channel_floor)
    for floor in (Channel.BETA, Channel.ALPHA):
        if pack.channel_floor is Channel.STABLE or (pack.channel_floor, floor) == (Channel.BETA, Channel.ALPHA):
            edit = SetGround(game_version=ground.game_version, loader=ground.loader, channel_floor=floor)
            yield _Try(1 if floor is Channel.BETA else 2, f"take {floor} builds", "", edit)
    game = catalogue.game(pack.game)
    loader = game.loader(pack.loader.slug) if game and pack.loader else None
    for version in game.versions if game else ():
        if pack.loader is None:
            if version.label != pack.game_version:
                edit = SetGround(game_version=version.label, loader=None, channel_floor=pack.channel_floor)
                yield _Try(4, f"move to game version {version.label}", "", edit)
            continue
        for other in (loader_versions(loader, version.label) if loader else [])[:2]:
            choice = LoaderChoice(slug=pack.loader.slug, version=other.label)
            if (version.label, choice) == (pack.game_version, pack.loader):
                continue
            edit = SetGround(game_version=version.label, loader=choice, channel_floor=pack.channel_floor)
            named = loader_in_words(game, choice)
            if version.label == pack.game_version:
                yield _Try(3, f"take {named}", "", edit)
            else:
                yield _Try(4, f"move to game version {version.label} with {named}", "", edit)


def _remedy(pack: Pack, catalogue: Catalogue, steps: tuple[_Try, ...], outcome: Resolved) -> Remedy:
    """The remedy with, for a pin that goes, the version that its mod would then have."""
    mods = catalogue.by_slug(pack.game)
    words = []
    for step in sorted(steps, key=lambda step: (step.weight, step.words)):
        entry, mod = pack.entry(step.mod), mods.get(step.mod)
        to = outcome.builds.get(step.mod)
        if entry is not None and mod is not None and isinstance(step.edit, SetPin) and to and to != entry.version:
            verb = "raise" if is_newer(mod, to, entry.version or "") else "lower"
            words.append(f"{verb} {mod.name} from {entry.version} to {to} (its pin goes)")
        else:
            words.append(step.words)
    label = " and ".join(words)
    edits = tuple(step.edit for step in steps)
    edit = edits[0] if len(edits) == 1 else Several(edits=edits, label=label)
    return Remedy(label=label[0].upper() + label[1:], edit=edit)
