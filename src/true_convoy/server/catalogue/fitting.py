"""Whether a mod of the catalogue suits a draft, with which build, and why not."""

from collections.abc import Iterable, Mapping

import msgspec

from true_convoy.core.fit import Misfit, fits, loader_name, nearest, newest_first, newest_fitting
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Clashes, Game
from true_convoy.core.model import Mod as ModValue
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.ranges import in_range

from .readings import readings


class FitInfo(msgspec.Struct, kw_only=True):
    """Whether a mod suits the draft, with the reason.

    ``answer`` is fits, older-build, other-loader, no-build, clashes or already-in.
    """

    answer: str
    version: str
    reason: str


def fit_of(mod: ModValue, pack: PackValue, game: Game | None, clashes: "DraftClashes") -> FitInfo:
    """Whether and with which build a mod suits a draft, and why not."""
    entry, best, newest = pack.entry(mod.slug), newest_fitting(mod, pack), next(iter(newest_first(mod)), None)
    if entry is not None:
        off = "" if entry.enabled else ", turned off"
        return FitInfo(answer="already-in", version=entry.version or "", reason=f"is in the draft{off}")
    if best is not None and (clash := clashes.with_build(mod.slug, best)):
        return FitInfo(answer="clashes", version=best.version, reason=clash)
    if best is not None and best is newest:
        return FitInfo(answer="fits", version=best.version, reason=f"fits with {best.version}")
    if best is not None and newest is not None:
        why = f"fits with the older {best.version}; {newest.version} {fits(newest, pack, game).reason}"
        return FitInfo(answer="older-build", version=best.version, reason=why)
    near = nearest(mod, pack, game)
    if near is None:
        return FitInfo(answer="no-build", version="", reason="has no builds")
    build, fit = near
    if fit.misfit is Misfit.LOADER:
        named = " or ".join(loader_name(game, slug) for slug in build.loaders)
        own = loader_name(game, pack.loader.slug) if pack.loader else "no loader"
        return FitInfo(answer="other-loader", version="", reason=f"needs {named}; the draft uses {own}")
    why = f"no build for this ground; the nearest, {build.version}, {fit.reason}"
    return FitInfo(answer="no-build", version="", reason=why)


class DraftClashes:
    """What the entries of a draft say they clash with, and what says so of them."""

    def __init__(self, versions: Mapping[str, str], names: Mapping[str, str], said: Iterable[tuple[str, Clashes]]):
        self.versions, self.names = versions, names
        self.said: dict[str, list[tuple[str, Clashes]]] = {}
        for slug, clash in said:
            self.said.setdefault(clash.mod, []).append((slug, clash))

    def with_build(self, slug: str, build: BuildValue) -> str:
        """In words what a build clashes with in the draft; empty if nothing."""
        for other, clash in self.said.get(slug, ()):
            if in_range(clash.versions, build.version):
                return self._words(other, clash)
        for relation in build.relations:
            there = self.versions.get(relation.mod) if isinstance(relation, Clashes) else None
            if isinstance(relation, Clashes) and there is not None and in_range(relation.versions, there):
                return self._words(relation.mod, relation)
        return ""

    def _words(self, other: str, clash: Clashes) -> str:
        because = f": {clash.reason}" if clash.reason else ""
        return f"clashes with {self.names.get(other, other)}{because}"


def draft_clashes(pack: PackValue) -> DraftClashes:
    """The clashes of a draft's enabled entries."""
    versions = {entry.mod: entry.version for entry in pack.entries if entry.enabled and entry.version is not None}
    found = {slug: reading.mod for slug, reading in readings(pack.game, versions).items()}
    builds = {slug: mod.build(versions[slug]) for slug, mod in found.items()}
    said = [
        (slug, relation)
        for slug, build in builds.items()
        for relation in (build.relations if build is not None else ())
        if isinstance(relation, Clashes)
    ]
    return DraftClashes(versions, {slug: mod.name for slug, mod in found.items()}, said)
