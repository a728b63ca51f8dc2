"""The demo: the games club of an invented public library, its packs, its people and their rigs in every state."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone
from msgspec.structs import replace

from true_convoy.core import documents
from true_convoy.core.assemble import preview_add
from true_convoy.core.edits import Edit, RemoveEntry, SetBuild, SetNote, SetOptional, SetPin, Several
from true_convoy.core.model import Entry, Inventory, LoaderChoice, Machine, Pin, RigFile, Side
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.model import Release as ReleaseValue
from true_convoy.core.sync import wanted_files

from .catalogue.models import Game, Starter
from .catalogue.queries import extract
from .packs import actions as packs
from .packs.models import Membership, Pack
from .packs.queries import draft
from .releases.actions import publish
from .releases.models import Release
from .releases.queries import value_of
from .rigs import actions as rigs
from .rigs.models import Rig

PASSWORD = "lantern-lane-demo"  # noqa: S105 -- shown on the first screen of the demo, for the demo only
PEOPLE = {
    "maren": "Maren Aldous",
    "idris": "Idris Quell",
    "tove": "Tove Lindqvist-Bray",
    "casper": "Casper Nye",
    "oona": "Oona Fairlie",
    "hamish": "Hamish Brackwater",
    "lucia": "Lucia Pell",
    "benno": "Benno Strand",
    "yasmin": "Yasmin Okoro-Hale",
    "petra": "Petra Dunmore",
    "wilf": "Wilf Sanderling",
    "agnes": "Agnes Roe",
    "juno": "Juno Marsh",
}
ROLES = {"maren": "owner", "idris": "curator"}
DEEP_FIRST = [
    *("deep-chart", "better-buoys", "broad-beam", "stacked-holds", "net-and-line", "storm-glass", "compass-rose"),
    *("diving-bell", "drowned-halls", "reef-garden", "galley", "clear-water", "harbour-master", "signal-flags"),
]
DEEP_SECOND = ["pilot-notes", "salvage-rights", "paint-locker", "steady-camera", "kelp-farm"]
DEEP_THIRD = ["engine-room", "buoy-chart-bridge", "seal-colony", "gull-speak", "night-watch", "leviathan-rest"]
DEEP_DRAFT = ["barter-pier", "fog-bank", "crows-nest"]


KEEL = ("tidewrack", "2.4.1", LoaderChoice(slug="keel", version="0.9.3"))


@dataclass(frozen=True, kw_only=True)
class DemoRig:
    """A rig of the demo: whose, on which release, and what is wrong with it."""

    person: str
    name: str
    at: str
    flaw: str = ""
    days: float = 0.3
    side: str = "client"


RIGS = [
    DemoRig(person="maren", name="Maren's desktop", at="1.2.0"),
    DemoRig(person="idris", name="Club server", at="1.2.0", side="server"),
    DemoRig(person="idris", name="Idris's laptop", at="1.2.0", days=1.1),
    DemoRig(person="tove", name="Tove at home", at="1.2.0"),
    DemoRig(person="casper", name="Casper", at="1.2.0", days=2),
    DemoRig(person="oona", name="Oona's tower", at="1.2.0", days=0.1),
    DemoRig(person="hamish", name="Hamish", at="1.1.0", days=3),
    DemoRig(person="lucia", name="Lucia's laptop", at="1.1.0", days=5),
    DemoRig(person="benno", name="Benno", at="1.2.0", flaw="altered"),
    DemoRig(person="yasmin", name="Yasmin", at="1.1.0", flaw="extra", days=4),
    DemoRig(person="petra", name="Petra's desktop", at="1.2.0", flaw="awaits", days=0.5),
    DemoRig(person="wilf", name="Wilf", at="1.2.0", flaw="awaits", days=1.5),
    DemoRig(person="agnes", name="Agnes", at="1.0.0", days=31),
    DemoRig(person="juno", name="Reading room 2", at="1.2.0", days=0.2),
]


def address(person: str) -> str:
    """The demo address of a person."""
    return f"{person}@lantern-lane.example"


@transaction.atomic
def load() -> None:
    """Makes the demo in an otherwise empty database that has the catalogue."""
    now = timezone.now()
    people = {slug: get_user_model().objects.create_user(address(slug), PASSWORD, name=PEOPLE[slug]) for slug in PEOPLE}
    people["idris"].is_staff = True
    people["idris"].save()
    deep = _new_pack(people, "Thursday Deep", "group")
    for slug, user in people.items():
        if slug != "maren":
            packs.set_role(deep, user, Membership.Role(ROLES.get(slug, "member")))
    _deep_releases(deep, people, now)
    _board(deep, people, now)
    rigs.issue_code(deep, people["maren"])
    saturday = _new_pack(people, "Saturday Shallows", "playthrough")
    _add(saturday, people["maren"], ["skiff-and-tender", "net-and-line", "galley", "compass-rose", "clear-water"])
    _publish(saturday, people["maren"], "1.0.0", "The small boats pack for Saturdays.", now - timedelta(days=9))
    rigs.issue_code(saturday, people["maren"])
    packs.set_role(saturday, people["idris"], Membership.Role.CURATOR)
    _other_games(people)


def _other_games(people: dict[str, Any]) -> None:
    """A pack of each of the two other games, which differ in kind: folders with manifests, and a load order."""
    winter = _new_pack(people, "Winter Table", "playthrough", ground=("emberline", "3.2.1", None))
    _add(winter, people["maren"], ["long-winter", "winter-wardrobe", "dry-stone", "three-fields", "work-lists"])
    packs.set_role(winter, people["idris"], Membership.Role.CURATOR)
    quill = _new_pack(people, "Quill Night", "group", ground=("quillmoor", "1.9", None))
    wanted = ["inkwell-wars", "overdue-fines", "silent-halls", "moats-and-bridges", "clerks-and-cats", "larger-print"]
    _add(quill, people["maren"], wanted)
    _starters()


STARTERS = [
    (
        KEEL,
        "First voyage",
        "Charts, buoys and a dry galley: enough for a first evening.",
        ["deep-chart", "better-buoys", "galley", "compass-rose", "clear-water"],
    ),
    (
        KEEL,
        "Salvage crew",
        "Bells, holds and the rights to what is in them.",
        ["diving-bell", "stacked-holds", "salvage-rights", "winch-and-davit", "crew-voices"],
    ),
    (
        ("emberline", "3.2.1", None),
        "A quiet first year",
        "Fields, walls and lists of who does what.",
        ["three-fields", "dry-stone", "work-lists", "long-tables"],
    ),
    (
        ("quillmoor", "1.9", None),
        "Feuds for beginners",
        "Reasons to quarrel, and letters large enough to read them.",
        ["inkwell-wars", "rivals-and-friends", "larger-print"],
    ),
]


def _starters() -> None:
    """Starter collections, as staff would offer them."""
    for (game, version, loader), name, about, mods in STARTERS:
        entries = tuple(Entry(mod=mod) for mod in mods)
        value = PackValue(slug="starter", name=name, game=game, game_version=version, loader=loader, entries=entries)
        row = Game.objects.get(slug=game)
        Starter.objects.create(game=row, name=name, about=about, document=documents.to_builtins(value))


def _new_pack(
    people: dict[str, Any], name: str, purpose: str, ground: tuple[str, str, LoaderChoice | None] = KEEL
) -> Pack:
    game, version, loader = ground
    label = {"emberline": "Winter campaign", "quillmoor": "Long evenings"}.get(game, "Games club")
    value = PackValue(
        slug=packs.slug_for(name),
        name=name,
        game=game,
        game_version=version,
        loader=loader,
        purpose=purpose,
        label=label,
        entries=(),
    )
    return packs.create_pack(people["maren"], value)


def _edit(pack: Pack, by: Any, edit: Edit) -> None:
    packs.make_edit(pack, by, draft(pack)[0].number, edit)


def _add(pack: Pack, by: Any, mods: Sequence[str], versions: dict[str, str] | None = None) -> None:
    value = draft(pack)[1]
    reached = extract(value.game, [*(entry.mod for entry in value.entries), *mods])
    preview = preview_add(value, reached, mods, versions)
    if preview.edit is None:
        raise ValueError(" ".join(preview.explanation))
    _edit(pack, by, preview.edit)


def _publish(pack: Pack, by: Any, version: str, notes: str, at: datetime) -> None:
    publish(pack, by, revision=draft(pack)[0].number, version=version, channel="steady", notes=notes, at=at)


def _deep_releases(pack: Pack, people: dict[str, Any], now: datetime) -> None:
    maren, idris = people["maren"], people["idris"]
    older = {"storm-glass": "1.6.1", "clear-water": "2.1.0", "net-and-line": "2.2.0"}
    available = {slug: v for slug, v in older.items() if _has(slug, v)}
    _add(pack, maren, DEEP_FIRST, available)
    _edit(pack, maren, SetPin(mod="better-buoys", pin=Pin(reason="1.6 is said to move the lights")))
    _edit(pack, maren, SetOptional(mod="clear-water", optional=True))
    _publish(pack, maren, "1.0.0", "The first release. Bring a lamp.", now - timedelta(days=62))
    _add(pack, maren, DEEP_SECOND)
    _edit(pack, idris, SetNote(mod="harbour-master", note="Quiet hours are set to 23:00 on the club server."))
    _publish(pack, maren, "1.1.0", "Notes on the chart, claims on wrecks, and paint.", now - timedelta(days=27))
    _add(pack, idris, DEEP_THIRD)
    raised = tuple(SetBuild(mod=slug, version=_newest(slug)) for slug in available)
    _edit(pack, idris, Several(edits=raised, label=f"raised {len(raised)} mods to their newest builds"))
    notes = "Engines need looking after now. Leviathan's Rest must be fetched by hand from its author's page."
    _publish(pack, maren, "1.2.0", notes, now - timedelta(days=6))
    _add(pack, maren, DEEP_DRAFT)
    _edit(pack, idris, RemoveEntry(mod="gull-speak"))


def _has(slug: str, version: str) -> bool:
    return any(mod.build(version) for mod in extract("tidewrack", [slug]).mods if mod.slug == slug)


def _newest(slug: str) -> str:
    """The newest stable build that the world's table lists."""
    mod = extract("tidewrack", [slug]).by_slug("tidewrack")[slug]
    return [build for build in mod.builds if build.channel == "stable"][-1].version


def _board(pack: Pack, people: dict[str, Any], now: datetime) -> None:
    group = rigs.issue_code(pack, people["maren"], days=90)
    for number, rig in enumerate(RIGS):
        code = rigs.issue_personal_code(group, people[rig.person])
        row, _ = rigs.board(code.code, name=rig.name, side=rig.side)
        release = value_of(Release.objects.get(pack=pack, version=rig.at))
        rigs.report(row, documents.to_builtins(_inventory(rig, release, random.Random(number))))
        Rig.objects.filter(pk=row.pk).update(reported=now - timedelta(days=rig.days), joined=now - timedelta(days=60))


def _inventory(rig: DemoRig, release: ReleaseValue, chance: random.Random) -> Inventory:
    """What a rig would report that followed a release and then met with its flaw."""
    wanted = wanted_files(release, Side(rig.side))
    files = [
        RigFile(path=goal.target, size=goal.size, sha256=goal.sha256)
        for goal in wanted.values()
        if goal.url is not None or rig.flaw != "awaits"
    ]
    if rig.flaw == "altered":
        files = [replace(f, sha256="e" * 64) if "stacked-holds" in f.path else f for f in files]
    if rig.flaw == "extra":
        files.append(RigFile(path="mods/wreck-finder-1.2.0.zip", size=40_000, sha256="f" * 64))
        files = [file for file in files if "galley" not in file.path]
    machine = Machine(system="Linux", memory_mib=chance.choice([8192, 16384, 32768]), runtime_major=17)
    return Inventory(release=release.digest, side=Side(rig.side), files=tuple(files), machine=machine)
