"""The Check station: findings with their fixes, the fit table, the load order, and the picture of who needs whom."""

import msgspec
from rest_framework.request import Request

from true_convoy.core.checks import Finding, Grade, Mending, check, mend_all
from true_convoy.core.checks.situation import Situation
from true_convoy.core.edits import Edit, apply, in_words, parts
from true_convoy.core.fit_table import Cell, Move, fit_table, preview_move
from true_convoy.core.model import Bridges, Catalogue, Clashes, Packaging, Requires
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.model import Release as ReleaseValue
from true_convoy.core.order import Contested, contested

from ..access import Refusal, Who
from ..catalogue import queries as catalogue
from ..frame import View, operation
from ..releases.queries import latest, value_of
from .queries import draft


class Findings(msgspec.Struct, kw_only=True):
    """All findings of a draft; ``names`` says what people call the mods in them."""

    revision: int
    findings: list[Finding]
    stops: int
    cautions: int
    notes: int
    accepted: int
    mendable: int
    names: dict[str, str]


class EditPreviewRequest(msgspec.Struct, kw_only=True):
    """An edit to be looked at before it is made."""

    edit: Edit


class EditPreview(msgspec.Struct, kw_only=True):
    """What an edit does, in words, and which findings go and come with it."""

    does: list[str]
    gone: list[str]
    new: list[str]


class Table(msgspec.Struct, kw_only=True):
    """The fit table with the names of what it is about."""

    cells: list[Cell]
    newest_whole: str | None
    loaders: dict[str, str]
    channels: dict[str, str]
    names: dict[str, str]
    entries: int


class OrderRow(msgspec.Struct, kw_only=True):
    """A place in the load order; ``after`` are the mods it must come after."""

    mod: str
    name: str
    after: list[str]


class Order(msgspec.Struct, kw_only=True):
    """The load order and the files that several entries supply. ``decides``: the game goes by this order."""

    decides: bool
    rows: list[OrderRow]
    circles: list[list[str]]
    contested: list[Contested]
    names: dict[str, str]


class Node(msgspec.Struct, kw_only=True):
    """A mod in the picture."""

    mod: str
    name: str
    version: str | None
    chosen: bool
    enabled: bool
    there: bool


class Edge(msgspec.Struct, kw_only=True):
    """One mod needs, patches or clashes with another; ``met`` is False where that makes trouble."""

    source: str
    target: str
    kind: str
    met: bool


class Picture(msgspec.Struct, kw_only=True):
    """Who needs whom."""

    nodes: list[Node]
    edges: list[Edge]


def _question(request: Request) -> tuple[int, PackValue, Catalogue, ReleaseValue | None]:
    """The draft's revision and value, what it reaches, and its last release."""
    newest, value = draft(request.pack)
    last = latest(request.pack)
    return newest.number, value, reached(value), value_of(last) if last else None


def reached(value: PackValue) -> Catalogue:
    """What a draft reaches in the catalogue, with file lists where its game unpacks archives."""
    game, mods = catalogue.game_value(value.game), [entry.mod for entry in value.entries]
    unpacks = any(kind.packaging is not Packaging.ARCHIVE for kind in game.kinds)
    return catalogue.extract(value.game, mods, contents=mods if unpacks or value.files else False)


def _names(found: Catalogue) -> dict[str, str]:
    return {mod.slug: mod.name for mod in found.mods}


class FindingsView(View):
    """What is wrong with a draft."""

    @operation(Who.MEMBER, gives=Findings)
    def get(self, request: Request) -> Findings:
        """All findings, stops first."""
        revision, value, found, last = _question(request)
        findings = list(check(value, found, last))
        open_ones = [finding for finding in findings if finding.accepted is None]
        about = {mod for finding in findings for mod in finding.mods}
        return Findings(
            revision=revision,
            findings=findings,
            stops=sum(finding.grade is Grade.STOP for finding in open_ones),
            cautions=sum(finding.grade is Grade.CAUTION for finding in open_ones),
            notes=sum(finding.grade is Grade.NOTE for finding in open_ones),
            accepted=len(findings) - len(open_ones),
            mendable=sum(any(fix.safe for fix in finding.fixes) for finding in open_ones),
            names={slug: name for slug, name in _names(found).items() if slug in about},
        )


class MendingView(View):
    """Mending all that has one safe answer."""

    @operation(Who.MEMBER, gives=Mending)
    def get(self, request: Request) -> Mending:
        """The one edit that mends all that has one safe answer, and what it is made of."""
        _, value, found, last = _question(request)
        return mend_all(value, found, last)


class EditPreviewView(View):
    """Looking at an edit before it is made."""

    @operation(Who.MEMBER, takes=EditPreviewRequest, gives=EditPreview)
    def post(self, request: Request, body: EditPreviewRequest) -> EditPreview:
        """What an edit does, and which findings go and come with it."""
        _, value, found, last = _question(request)
        after = apply(value, body.edit)
        names = {loader.slug: loader.name for loader in found.games[0].loaders} | _names(found)
        before_all = {(f.code, f.mods, f.paths): f for f in check(value, found, last)}
        after_all = {(f.code, f.mods, f.paths): f for f in check(after, found, last)}
        return EditPreview(
            does=[in_words(part, names) for part in parts(body.edit)],
            gone=[before_all[key].message for key in before_all if key not in after_all],
            new=[after_all[key].message for key in after_all if key not in before_all],
        )


class FitTableView(View):
    """Where a draft would fit."""

    @operation(Who.MEMBER, gives=Table)
    def get(self, request: Request) -> Table:
        """Per game version and loader, how many entries have a build."""
        value = draft(request.pack)[1]
        found = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        table, game = fit_table(value, found), found.games[0]
        whole = table.newest_whole
        return Table(
            cells=list(table.cells),
            newest_whole=f"{whole[0]}/{whole[1] or ''}" if whole else None,
            loaders={loader.slug: loader.name for loader in game.loaders},
            channels={version.label: version.channel for version in game.versions},
            names={slug: name for slug, name in _names(found).items() if value.entry(slug)},
            entries=sum(entry.enabled for entry in value.entries),
        )


class MoveView(View):
    """Moving a draft to another ground."""

    @operation(Who.MEMBER, gives=Move, query={"game_version": "The game version.", "loader": "The loader's slug."})
    def get(self, request: Request) -> Move:
        """What moving there would raise, lower, lose and replace, and the one edit that does it."""
        value = draft(request.pack)[1]
        found = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        version = request.query_params.get("game_version", "")
        loader = request.query_params.get("loader", "") or None
        game = found.games[0]
        if version not in [one.label for one in game.versions] or (loader and game.loader(loader) is None):
            raise Refusal(400, "ground", f"{game.name} has no such version or loader.")
        counterparts = [slug for mod in found.mods for slug in mod.counterparts]
        found = catalogue.extract(value.game, [*(entry.mod for entry in value.entries), *counterparts])
        return preview_move(value, found, version, loader)


class LoadOrderView(View):
    """The load order of a draft."""

    @operation(Who.MEMBER, gives=Order)
    def get(self, request: Request) -> Order:
        """What loads after what, and which file wins where several supply it."""
        _, value, found, last = _question(request)
        situation = Situation(value, found, last)
        names, order = _names(found), situation.order
        return Order(
            decides=situation.game.load_order,
            rows=[
                OrderRow(mod=mod, name=names.get(mod, mod), after=[names[a] for a in order.after.get(mod, ())])
                for mod in order.mods
            ],
            circles=[list(circle) for circle in order.circles],
            contested=list(contested(order, situation.places)),
            names={entry.mod: names.get(entry.mod, entry.mod) for entry in value.entries},
        )


class PictureView(View):
    """Who needs whom in a draft."""

    @operation(Who.MEMBER, gives=Picture)
    def get(self, request: Request) -> Picture:
        """The entries as nodes; what they need, patch and clash with as edges."""
        _, value, found, last = _question(request)
        situation = Situation(value, found, last)
        nodes = {
            entry.mod: Node(
                mod=entry.mod,
                name=situation.name(entry.mod),
                version=entry.version,
                chosen=entry.chosen,
                enabled=entry.enabled,
                there=True,
            )
            for entry in value.entries
        }
        edges: dict[tuple[str, str, str], Edge] = {}
        for slug in situation.entries:
            for edge in _edges(situation, slug):
                edges[edge.source, edge.target, edge.kind] = edge
                if edge.target not in nodes:
                    name = situation.name(edge.target)
                    nodes[edge.target] = Node(
                        mod=edge.target, name=name, version=None, chosen=False, enabled=False, there=False
                    )
        return Picture(nodes=list(nodes.values()), edges=list(edges.values()))


def _edges(situation: Situation, slug: str) -> list[Edge]:
    found = []
    build = situation.build(slug)
    for relation in build.relations if build else ():
        match relation:
            case Requires():
                met = situation.meets(slug, relation)
                targets = met or [relation.targets[0].mod]
                found += [Edge(source=slug, target=t, kind="needs", met=bool(met)) for t in targets if t != slug]
            case Bridges():
                found += [
                    Edge(source=slug, target=mod, kind="patches", met=mod in situation.entries) for mod in relation.mods
                ]
            case Clashes() if relation.mod in situation.entries and relation.mod != slug:
                found.append(Edge(source=slug, target=relation.mod, kind="clashes", met=False))
    return found
