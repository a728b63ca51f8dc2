"""Reading releases."""

from functools import lru_cache

from true_convoy.core import documents
from true_convoy.core.compare import Difference, compare
from true_convoy.core.model import Catalogue
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.model import Release as ReleaseValue
from true_convoy.core.order import in_load_order

from ..packs.models import Pack
from .models import Release


@lru_cache(maxsize=64)
def _read(digest: str) -> ReleaseValue:
    return documents.read(ReleaseValue, Release.objects.get(digest=digest).document).value


def value_of(release: Release) -> ReleaseValue:
    """The value of a release; releases never change, so the latest ones are kept in memory."""
    return _read(release.digest)


def by_digest(digest: str | None) -> ReleaseValue | None:
    """The value of the release with a digest, if there is one."""
    return _read(digest) if digest and Release.objects.filter(digest=digest).exists() else None


def latest(pack: Pack, channel: str | None = None) -> Release | None:
    """The newest release of a pack, or of one of its channels. The trial channel also carries steady releases."""
    rows = pack.releases.order_by("-pk")
    return rows.filter(channel=channel).first() if channel == "steady" else rows.first()


def since_last(pack: Pack, value: PackValue, catalogue: Catalogue) -> tuple[Release | None, Difference | None]:
    """The newest release and what the draft changes against it."""
    last = latest(pack)
    if last is None:
        return None, None
    mods, game = catalogue.by_slug(value.game), catalogue.game(value.game)
    if game is not None and game.load_order:
        value = in_load_order(value, mods)
    schemes = {slug: mod.version_scheme for slug, mod in mods.items()}
    return last, compare(value_of(last), value, schemes, {slug: mod.name for slug, mod in mods.items()})
