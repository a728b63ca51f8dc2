"""Taking in catalogue documents. Importing the same document again changes nothing."""

import hashlib
import ipaddress
from collections.abc import Callable
from typing import Any
from urllib.parse import urljoin, urlsplit

import httpx
import msgspec
from django.db import transaction
from django.db.models import TextField
from django.db.models.functions import Cast
from django.utils import timezone

from true_convoy.core import documents, recognise
from true_convoy.core.documents import canonical
from true_convoy.core.errors import ConvoyError
from true_convoy.core.model import Bridges, Bundles, Catalogue, PackBase, Requires
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Game as GameValue
from true_convoy.core.model import Mod as ModValue

from ..access import Refusal
from ..events import announce
from ..jobs.actions import progress, running
from ..jobs.models import Job
from ..packs.models import Pack
from ..packs.queries import draft
from .grounds import every_ground, grounds_of
from .models import Build, Contents, Game, Mod, Source

_BUILDS = msgspec.json.Decoder(BuildValue)
MAX_PAGE_BYTES = 64 * 1024 * 1024
MAX_PAGES = 20_000


class FeedFailed(ConvoyError):
    """A catalogue feed cannot be read."""


def import_feed(job: Job, address: str) -> None:
    """Takes in a feed page by page; each page is one transaction, so that a failure keeps what came before."""
    with running(job):
        source, _ = Source.objects.get_or_create(address=address)
        seen: set[tuple[str, str]] = set()
        done, page, pages = 0, address, 0
        while page:
            raw = fetch_page(page)
            catalogue = documents.from_builtins(Catalogue, raw)
            with transaction.atomic():
                take_in(catalogue, source)
            seen |= {(mod.game, mod.slug) for mod in catalogue.mods}
            done += len(catalogue.mods)
            progress(job, done, catalogue.total)
            page, pages = _following(page, catalogue.next), pages + 1
            if pages > MAX_PAGES:
                raise FeedFailed("The feed does not end. What had come by then was kept.")
        _withdraw_unlisted(source, seen)
        Source.objects.filter(pk=source.pk).update(imported=timezone.now())
        announce("catalogue")


def fetch_page(address: str) -> Any:
    """One page of a feed as plain JSON values. Raises FeedFailed with a sentence."""
    try:
        with httpx.Client(timeout=httpx.Timeout(20, connect=5)) as client, client.stream("GET", address) as response:
            if response.status_code != 200:
                raise FeedFailed(f"The mod host answered with status {response.status_code}. Try again later.")
            data = bytearray()
            for chunk in response.iter_bytes():
                data += chunk
                if len(data) > MAX_PAGE_BYTES:
                    raise FeedFailed("A page of the feed is far larger than a page should be.")
        return msgspec.json.decode(bytes(data))
    except (httpx.HTTPError, httpx.InvalidURL):
        raise FeedFailed(f"The mod host at {urlsplit(address).netloc} cannot be reached. Try again later.") from None
    except msgspec.DecodeError:
        raise FeedFailed("A page of the feed is not a JSON document.") from None


def check_address(address: str) -> str:
    """A feed's address as given, if it is one. Raises FeedFailed."""
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise FeedFailed("The address of a catalogue begins with http:// or https://.")
    try:
        unspecified = ipaddress.ip_address(parts.hostname).is_unspecified
    except ValueError:
        unspecified = False
    if unspecified or parts.username:
        raise FeedFailed("This is not an address of a catalogue.")
    return address


def _following(page: str, following: str | None) -> str:
    """The next page's address; a feed may only lead on within its own host."""
    if following is None:
        return ""
    target = urljoin(page, following)
    if urlsplit(target).netloc != urlsplit(page).netloc:
        raise FeedFailed("The feed leads to another host, which is not followed.")
    return target


def _withdraw_unlisted(source: Source, seen: set[tuple[str, str]]) -> None:
    """Mods that a whole feed no longer lists stay, their builds marked as withdrawn, because drafts may have them."""
    for mod in Mod.objects.filter(source=source).select_related("game").defer("search"):
        if (mod.game.slug, mod.slug) not in seen:
            _withdraw_missing(mod, set())


def take_in(catalogue: Catalogue, source: Source | None = None) -> None:
    """Stores games, mods and builds of a document; what is there already is brought up to date."""
    for game in catalogue.games:
        if keep_game(game):
            reground(game.slug)
    games = {row.slug: row for row in Game.objects.all()}
    values = {slug: msgspec.convert(row.document, GameValue) for slug, row in games.items()}
    grounds = {slug: every_ground(value) for slug, value in values.items()}
    for mod in catalogue.mods:
        if mod.game not in games:
            raise FeedFailed(f'The mod "{mod.slug}" is for the game "{mod.game}", which is not known.')
        row = take_in_mod(mod, games[mod.game], values[mod.game], grounds[mod.game])
        if source is not None and row.source_id != source.pk:
            Mod.objects.filter(pk=row.pk).update(source=source)


def keep_game(value: GameValue) -> bool:
    """Keeps a game definition. Says whether what its mods are for has to be worked out again (``reground``)."""
    facts = {"name": value.name, "document": msgspec.to_builtins(value)}
    before = Game.objects.filter(slug=value.slug).first()
    Game.objects.update_or_create(slug=value.slug, defaults=facts)
    if before is None:
        return False
    old = msgspec.convert(before.document, GameValue)
    return every_ground(old) != every_ground(value) or old.outdated != value.outdated


def reground(game: str, tell: Callable[[int, int], None] = lambda done, total: None) -> None:
    """Works out again which grounds the mods of a game have builds for; ``tell`` hears how many are done."""
    row = Game.objects.get(slug=game)
    value = msgspec.convert(row.document, GameValue)
    grounds, mods = every_ground(value), Mod.objects.filter(game=row)
    total = mods.count()
    tell(0, total)
    for done, mod in enumerate(mods.defer("search").iterator(chunk_size=500), 1):
        found = grounds_of(_builds_of(mod), value, grounds)
        if found != mod.grounds:
            mod.grounds = found
            mod.save(update_fields=["grounds", "changed"])
        if done % 500 == 0 or done == total:
            tell(done, total)


def reground_in_background(job: Job, game: str) -> None:
    """Works the grounds of a game's mods out again and tells how far it is in the job."""
    with running(job):
        reground(game, lambda done, total: progress(job, done, total))
        announce("catalogue")


def _builds_of(mod: Mod) -> list[BuildValue]:
    texts = mod.builds.values_list(Cast("document", TextField()), flat=True)
    return [_BUILDS.decode(text) for text in texts]


def put_game(value: GameValue, by: Any) -> None:
    """Keeps a game definition that staff wrote; its mods follow in the background.

    Raises DocumentError or Refusal with a sentence.
    """
    documents.from_builtins(Catalogue, documents.to_builtins(Catalogue(games=(value,), mods=())))
    versions = {version.label for version in value.versions}
    if not versions:
        raise Refusal(400, "versions", "A game needs at least one version. Nothing was changed.")
    loaders = {loader.slug for loader in value.loaders}
    for pack in Pack.objects.filter(game=value.slug):
        ground = draft(pack)[1]
        if ground.game_version not in versions:
            raise Refusal(409, "in-use", f"{pack.name} stands on version {ground.game_version}. Nothing was changed.")
        if ground.loader and ground.loader.slug not in loaders:
            raise Refusal(409, "in-use", f"{pack.name} stands on the loader {ground.loader.slug}. Nothing was changed.")
    from .tasks import reground_mods

    with transaction.atomic():
        if keep_game(value):
            title = f"Working out what each mod of {value.name} is for"
            job = Job.objects.create(title=title[:200], unit="mods", owner=by)
            reground_mods.configure(lock=f"grounds-{value.slug}").defer(job=job.pk, game=value.slug)
        announce("catalogue")


def take_in_mod(mod: ModValue, game: Game, value: GameValue, grounds: list[PackBase], **more: Any) -> Mod:
    """Stores a mod with its builds, unless it is there just so; ``more`` are further columns."""
    digest = hashlib.sha256(canonical(msgspec.to_builtins(mod))).hexdigest()
    there = Mod.objects.filter(game=game, slug=mod.slug).defer("search").first()
    if there is not None and there.digest == digest and not more:
        return there
    if there is not None and there.shelf_id is not None and "shelf" not in more:
        raise FeedFailed(
            f'The mod "{mod.slug}" stands on a shelf here, so the feed\'s mod of this name was not taken in.'
        )
    published = [build.published for build in mod.builds if build.published]
    page = [recognise.page_key(mod.page)] if mod.page else []
    facts = {
        "name": mod.name,
        "summary": mod.summary,
        "people": ", ".join(mod.authors),
        "categories": list(mod.categories),
        "kind": mod.kind,
        "installs": mod.installs,
        "newest": max(published, default=None),
        "first": min(published, default=None),
        "keys": sorted({recognise.folded(mod.name), recognise.folded(mod.slug), *page}),
        "grounds": grounds_of(mod.builds, value, grounds),
        "document": msgspec.to_builtins(msgspec.structs.replace(mod, builds=())),
        "digest": digest,
    }
    row, _ = Mod.objects.update_or_create(game=game, slug=mod.slug, defaults=facts | more)
    Build.objects.bulk_create(
        [_build_row(row, build) for build in mod.builds],
        update_conflicts=True,
        unique_fields=["mod", "version"],
        update_fields=["sha256", "bundles", "bridges", "requires", "document"],
    )
    _withdraw_missing(row, {build.version for build in mod.builds})
    keys = dict(Build.objects.filter(mod=row).values_list("version", "pk"))
    Contents.objects.bulk_create(
        [Contents(build_id=keys[b.version], files=msgspec.to_builtins(b.contents)) for b in mod.builds],
        update_conflicts=True,
        unique_fields=["build"],
        update_fields=["files"],
    )
    return row


def _withdraw_missing(row: Mod, versions: set[str]) -> None:
    """Builds that a feed no longer lists stay, marked as withdrawn, because drafts may have them."""
    gone = [
        build
        for build in Build.objects.filter(mod=row).exclude(version__in=versions)
        if build.document.get("withdrawn") is None
    ]
    for build in gone:
        build.document["withdrawn"] = "it is no longer offered"
        build.save(update_fields=["document"])
    if gone:
        # What it is for has changed; and should the feed list it again, it is taken in again.
        game = msgspec.convert(row.game.document, GameValue)
        row.grounds = grounds_of(_builds_of(row), game, every_ground(game))
        row.digest = row.digest if versions else ""
        row.save(update_fields=["grounds", "digest", "changed"])


def _build_row(mod: Mod, build: BuildValue) -> Build:
    needed = {
        target.mod for relation in build.relations if isinstance(relation, Requires) for target in relation.targets
    }
    return Build(
        mod=mod,
        version=build.version,
        sha256=(build.file.sha256 or "") if build.file else "",
        bundles=[relation.mod for relation in build.relations if isinstance(relation, Bundles)],
        bridges=[mod for relation in build.relations if isinstance(relation, Bridges) for mod in relation.mods],
        requires=sorted(needed),
        document=msgspec.to_builtins(msgspec.structs.replace(build, contents=())),
    )
