"""Taking in catalogue documents. Importing the same document again changes nothing."""

import hashlib
import ipaddress
from typing import Any
from urllib.parse import urljoin, urlsplit

import httpx
import msgspec
from django.db import transaction
from django.utils import timezone

from true_convoy.core import documents
from true_convoy.core.documents import canonical
from true_convoy.core.errors import ConvoyError
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Bundles, Catalogue
from true_convoy.core.model import Mod as ModValue

from ..events import announce
from ..jobs.actions import progress, running
from ..jobs.models import Job
from .models import Build, Contents, Game, Mod, Source

MAX_PAGE_BYTES = 64 * 1024 * 1024
MAX_PAGES = 20_000


class FeedFailed(ConvoyError):
    """A catalogue feed cannot be read."""


def import_feed(job: Job, address: str) -> None:
    """Takes in a feed page by page; each page is one transaction, so that a failure keeps what came before."""
    with running(job):
        done, page, pages = 0, address, 0
        while page:
            raw = fetch_page(page)
            catalogue = documents.from_builtins(Catalogue, raw)
            with transaction.atomic():
                take_in(catalogue)
            done += len(catalogue.mods)
            progress(job, done, catalogue.total)
            page, pages = _following(page, catalogue.next), pages + 1
            if pages > MAX_PAGES:
                raise FeedFailed("The feed does not end. What had come by then was kept.")
        Source.objects.update_or_create(address=address, defaults={"imported": timezone.now()})
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


def take_in(catalogue: Catalogue) -> None:
    """Stores games, mods and builds of a document; what is there already is brought up to date."""
    for game in catalogue.games:
        facts = {"name": game.name, "document": msgspec.to_builtins(game)}
        Game.objects.update_or_create(slug=game.slug, defaults=facts)
    games = dict(Game.objects.values_list("slug", "pk"))
    for mod in catalogue.mods:
        if mod.game not in games:
            raise FeedFailed(f'The mod "{mod.slug}" is for the game "{mod.game}", which is not known.')
        _take_in_mod(mod, games[mod.game])


def _take_in_mod(mod: ModValue, game: int) -> None:
    digest = hashlib.sha256(canonical(msgspec.to_builtins(mod))).hexdigest()
    if Mod.objects.filter(game=game, slug=mod.slug, digest=digest).exists():
        return
    facts = {
        "name": mod.name,
        "summary": mod.summary,
        "people": ", ".join(mod.authors),
        "categories": list(mod.categories),
        "kind": mod.kind,
        "installs": mod.installs,
        "newest": max((build.published for build in mod.builds if build.published), default=None),
        "document": msgspec.to_builtins(msgspec.structs.replace(mod, builds=())),
        "digest": digest,
    }
    row, _ = Mod.objects.update_or_create(game_id=game, slug=mod.slug, defaults=facts)
    Build.objects.bulk_create(
        [_build_row(row, build) for build in mod.builds],
        update_conflicts=True,
        unique_fields=["mod", "version"],
        update_fields=["sha256", "bundles", "document"],
    )
    keys = dict(Build.objects.filter(mod=row).values_list("version", "pk"))
    Contents.objects.bulk_create(
        [Contents(build_id=keys[b.version], files=msgspec.to_builtins(b.contents)) for b in mod.builds],
        update_conflicts=True,
        unique_fields=["build"],
        update_fields=["files"],
    )


def _build_row(mod: Mod, build: BuildValue) -> Build:
    return Build(
        mod=mod,
        version=build.version,
        sha256=(build.file.sha256 or "") if build.file else "",
        bundles=[relation.mod for relation in build.relations if isinstance(relation, Bundles)],
        document=msgspec.to_builtins(msgspec.structs.replace(build, contents=())),
    )
