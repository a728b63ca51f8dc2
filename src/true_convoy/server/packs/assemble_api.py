"""The Assemble station: previews of what a change brings, pasted text, path rules, and lists to take away."""

from typing import Annotated

import msgspec
from django.http import HttpResponse
from msgspec import Meta
from rest_framework.request import Request

from true_convoy.core import recognise
from true_convoy.core.assemble import AddPreview, RemovePreview, depending_on, preview_add, preview_remove
from true_convoy.core.edits import (
    AddEntry,
    Edit,
    Globs,
    SetEnabled,
    SetLabel,
    SetNote,
    SetOptional,
    SetPathRules,
    SetPin,
    SetSides,
    Several,
)
from true_convoy.core.errors import DocumentError
from true_convoy.core.listing import Row, as_csv, as_markdown
from true_convoy.core.model import Entry
from true_convoy.core.recognise import Recognised

from ..access import Refusal, Who
from ..catalogue import queries as catalogue
from ..catalogue.mods_api import BuildFiles, build_files
from ..catalogue.search import directory, refuse_hidden, shelves_of
from ..frame import View, operation
from .actions import make_edit
from .queries import draft, is_at_least, pack_and_role


class PreviewRequest(msgspec.Struct, kw_only=True):
    """Mods to add or remove; ``versions`` names builds for some, ``along`` who is to meet a requirement of theirs."""

    mods: list[str]
    versions: dict[str, str] = {}
    along: list[str] = []


class PastedRequest(msgspec.Struct, kw_only=True):
    """Any text that may name mods."""

    text: Annotated[str, Meta(max_length=recognise.MAX_TEXT)]


class Pasted(msgspec.Struct, kw_only=True):
    """What each line was taken for; ``names`` says what people call the mods in them."""

    lines: list[Recognised]
    names: dict[str, str]


class TurnOffPreview(msgspec.Struct, kw_only=True):
    """What cannot do without the entries to be turned off, and the one edit that turns off all."""

    names: list[str]
    edit: Edit


class ModsRequest(msgspec.Struct, kw_only=True):
    """Entries of the draft."""

    mods: list[str]


class RulesRequest(msgspec.Struct, kw_only=True):
    """Path rules to be tried on a build."""

    mod: str
    version: str
    keep: Globs = ()
    drop: Globs = ()


class CopyRequest(msgspec.Struct, kw_only=True):
    """Entries to copy to another pack of the caller's."""

    mods: list[str]
    to: str


class Copied(msgspec.Struct, kw_only=True):
    """How many entries were copied, the names of those that were there already, and where."""

    count: int
    already: list[str]
    name: str


def limited(mods: list[str]) -> None:
    """Raises DocumentError where none or far too many mods are named."""
    if not mods or len(mods) > 5000:
        raise DocumentError("$.mods", "name between one and 5,000 mods")


class AddPreviewView(View):
    """What adding mods would bring."""

    @operation(Who.MEMBER, takes=PreviewRequest, gives=AddPreview)
    def post(self, request: Request, body: PreviewRequest) -> AddPreview:
        """All that comes along at every level, and the one edit that adds it."""
        value = draft(request.pack)[1]
        limited(body.mods)
        wanted = [*body.mods, *body.along]
        refuse_hidden(request.user, value.game, [slug for slug in wanted if value.entry(slug) is None])
        reached = catalogue.extract(value.game, [*(entry.mod for entry in value.entries), *wanted])
        known = reached.by_slug(value.game)
        if missing := [slug for slug in wanted if slug not in known]:
            raise Refusal(404, "no-mod", f'The mod "{missing[0]}" is not in the catalogue. Nothing was added.')
        return preview_add(value, reached, body.mods, body.versions, body.along)


class RemovePreviewView(View):
    """What removing mods would leave behind."""

    @operation(Who.MEMBER, takes=ModsRequest, gives=RemovePreview)
    def post(self, request: Request, body: ModsRequest) -> RemovePreview:
        """What still needs them, what nothing else needs, and the one edit that removes all."""
        value = draft(request.pack)[1]
        limited(body.mods)
        reached = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        return preview_remove(value, reached, body.mods)


class TurnOffPreviewView(View):
    """What turning entries off would take with it."""

    @operation(Who.MEMBER, takes=ModsRequest, gives=TurnOffPreview)
    def post(self, request: Request, body: ModsRequest) -> TurnOffPreview:
        """What depends on them, at every level, and the one edit that turns off all."""
        value = draft(request.pack)[1]
        limited(body.mods)
        reached = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        names = {mod.slug: mod.name for mod in reached.mods}
        too = depending_on(value, reached, body.mods)
        slugs = [slug for slug in dict.fromkeys((*body.mods, *too)) if (e := value.entry(slug)) and e.enabled]
        if not slugs:
            raise Refusal(409, "off", "These entries are off already.")
        edits = tuple(SetEnabled(mod=slug, enabled=False) for slug in slugs)
        label = f"turned off {', '.join(names.get(s, s) for s in slugs[:3])}"
        label += f" and {len(slugs) - 3} more" if len(slugs) > 3 else ""
        return TurnOffPreview(names=[names.get(slug, slug) for slug in too], edit=Several(edits=edits, label=label))


class PastedView(View):
    """Adding many at once."""

    @operation(Who.MEMBER, takes=PastedRequest, gives=Pasted)
    def post(self, request: Request, body: PastedRequest) -> Pasted:
        """What each line of a text means; nothing is added by it."""
        value = draft(request.pack)[1]
        lines = recognise.read(body.text)
        known = directory(value.game, lines, shelves_of(request.user))
        found = recognise.recognise(lines, known, value)
        slugs = {slug for line in found for slug in (line.mod, *line.near) if slug}
        return Pasted(lines=found, names=catalogue.names(value.game, slugs))


class RulesView(View):
    """Trying path rules."""

    @operation(Who.MEMBER, takes=RulesRequest, gives=BuildFiles)
    def post(self, request: Request, body: RulesRequest) -> BuildFiles:
        """The files of a build's archive, and where each goes under the rules; what they drop goes nowhere."""
        value = draft(request.pack)[1]
        if value.entry(body.mod) is None:
            raise Refusal(404, "no-entry", "This mod is not in the draft any more.")
        row = catalogue.mod_row(value.game, body.mod)
        return build_files(row, body.version, catalogue.game_value(value.game), body.keep, body.drop)


class CopyView(View):
    """Copying entries to another pack."""

    @operation(Who.MEMBER, takes=CopyRequest, gives=Copied)
    def post(self, request: Request, body: CopyRequest) -> Copied:
        """Copies entries, with build, pin, sides, path rules and note, as one edit of the other pack."""
        limited(body.mods)
        other, role = pack_and_role(body.to, request.user)
        if not is_at_least(role, Who.CURATOR):
            raise Refusal(403, "role", f"Only a curator of {other.name} may add to it. Nothing was copied.")
        value, (newest, target) = draft(request.pack)[1], draft(other)
        if value.game != target.game:
            raise Refusal(409, "game", f"{other.name} is a pack of another game. Nothing was copied.")
        refuse_hidden(request.user, value.game, body.mods)
        entries = [entry for slug in body.mods if (entry := value.entry(slug))]
        fresh = [entry for entry in entries if target.entry(entry.mod) is None]
        there = [entry.mod for entry in entries if target.entry(entry.mod) is not None]
        if fresh:
            edits = tuple(edit for entry in fresh for edit in copied(entry))
            label = f"copied {len(fresh)} entr{'ies' if len(fresh) > 1 else 'y'} from {request.pack.name}"
            make_edit(other, request.user, newest.number, Several(edits=edits, label=label))
        names = catalogue.names(value.game, there)
        return Copied(count=len(fresh), already=[names.get(slug, slug) for slug in there], name=other.name)


def copied(entry: Entry) -> list[Edit]:
    """The edits that make an entry like another in a draft that has none of the mod."""
    edits: list[Edit] = [AddEntry(mod=entry.mod, version=entry.version, chosen=entry.chosen)]
    if entry.pin is not None:
        edits.append(SetPin(mod=entry.mod, pin=entry.pin))
    if entry.optional:
        edits.append(SetOptional(mod=entry.mod, optional=True, by_default=entry.by_default, one_of=entry.one_of))
    if entry.sides is not None:
        edits.append(SetSides(mod=entry.mod, sides=entry.sides))
    if entry.keep or entry.drop:
        edits.append(SetPathRules(mod=entry.mod, keep=entry.keep, drop=entry.drop))
    if entry.label:
        edits.append(SetLabel(mod=entry.mod, label=entry.label))
    if entry.note:
        edits.append(SetNote(mod=entry.mod, note=entry.note))
    if not entry.enabled:
        edits.append(SetEnabled(mod=entry.mod, enabled=False))
    return edits


class ListView(View):
    """The list of a draft, to take away."""

    @operation(Who.MEMBER, gives=None, query={"as": "csv or markdown."})
    def get(self, request: Request) -> HttpResponse:
        """The enabled entries as a CSV file (RFC 4180) or as Markdown."""
        value = draft(request.pack)[1]
        mods = catalogue.with_builds(value.game, [entry.mod for entry in value.entries])
        rows = [Row.of(entry, mods.get(entry.mod)) for entry in value.entries if entry.enabled]
        rows.sort(key=lambda row: row.name.casefold())
        if request.query_params.get("as") == "markdown":
            return _file(as_markdown(value, rows), "text/markdown", f"{request.pack.slug}.md")
        return _file(as_csv(rows), "text/csv", f"{request.pack.slug}.csv")


def _file(text: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(text.encode(), content_type=f"{kind}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
