"""Taking files in: piece by piece, then looked into and judged in the background."""

import contextlib
import hashlib
import os
from datetime import timedelta
from pathlib import Path
from typing import Any

import msgspec
from django.conf import settings
from django.core.files import File
from django.core.files.storage import storages
from django.db import transaction
from django.utils import timezone

from true_convoy.core.errors import UnsafePath
from true_convoy.core.intake import judge, manifest_names, unsafe_paths
from true_convoy.core.model import ContentFile
from true_convoy.core.paths import safe_path

from ..access import Refusal
from ..catalogue.models import Build
from ..catalogue.queries import game_value
from ..catalogue.search import shelves_of
from ..jobs.actions import progress, running
from ..jobs.models import Job
from .archives import BadArchive, is_archive, look_into, manifest_facts
from .models import Blob, Upload

MAX_SIZE = 4 * 1024**3
MAX_PIECE = 16 * 1024**2
MAX_OPEN = 20
KEPT_FOR = timedelta(days=7)
_CHUNK = 1 << 20


def part_of(upload: Upload) -> Path:
    """Where the bytes of an upload lie."""
    return Path(settings.UPLOADS) / f"{upload.pk}.part"


def begin(owner: Any, game: str, name: str, size: int, mark: str = "") -> Upload:
    """An upload that comes piece by piece; one of the same file that had not arrived whole goes on. Raises Refusal."""
    game_value(game)
    plain = name.replace("\\", "/").rpartition("/")[2]
    try:
        safe_path(plain)
    except UnsafePath as error:
        raise Refusal(400, "name", f"The file cannot be taken. {error}") from None
    if not 0 < size <= MAX_SIZE:
        raise Refusal(413, "size", "A file may have up to 4 GB, and must not be empty. Nothing was taken.")
    clean_up()
    same = {"owner": owner, "game": game, "name": plain, "size": size, "mark": mark}
    if mark and (begun := Upload.objects.filter(**same, state=Upload.State.RECEIVING).first()):
        return begun
    waiting = Upload.objects.filter(owner=owner, state__in=(Upload.State.RECEIVING, Upload.State.LOOKING))
    if waiting.count() >= MAX_OPEN:
        raise Refusal(429, "many", "There are twenty files on their way already. Let them arrive, or cancel some.")
    Path(settings.UPLOADS).mkdir(parents=True, exist_ok=True)
    return Upload.objects.create(**same)


def receive(upload: Upload, at: int, data: bytes) -> Upload:
    """Takes the piece that begins at byte ``at``. Raises Refusal, which says where to go on, if it is not the next."""
    with transaction.atomic():
        upload = Upload.objects.select_for_update().get(pk=upload.pk)
        if upload.state != Upload.State.RECEIVING:
            raise Refusal(409, "arrived", "This file has arrived already.", received=upload.received)
        if at != upload.received:
            raise Refusal(409, "place", "This piece is not the next one.", received=upload.received)
        if upload.received + len(data) > upload.size:
            raise Refusal(413, "size", "More came than the file was said to have. Begin again.")
        with part_of(upload).open("ab" if at else "wb") as file:
            file.truncate(at)
            file.seek(at)
            file.write(data)
        upload.received += len(data)
        upload.save(update_fields=["received"])
    return upload


def arrived(upload: Upload) -> None:
    """Has a whole upload looked into in the background."""
    from .tasks import look_into_upload

    job = Job.objects.create(title=f"Looking into {upload.name[:120]}", unit="MB", owner=upload.owner)
    upload.state, upload.job = Upload.State.LOOKING, job
    upload.save(update_fields=["state", "job"])
    look_into_upload.defer(upload=str(upload.pk))


def examine(upload: Upload, job: Job) -> None:
    """Says what an upload is: a build the catalogue has, or what it is taken for. Bad files are refused."""
    with running(job):
        path = part_of(upload)
        total = max(upload.size // 1_000_000, 1)
        last = [0]

        def tick(done: int) -> None:
            if done - last[0] > 32_000_000:
                last[0] = done
                progress(job, min(done // 1_000_000, total), total)

        try:
            upload.sha256 = _sha256(path)
            known = _known(upload)
            if known is not None:
                upload.report = {"known": {"mod": known.mod.slug, "name": known.mod.name, "version": known.version}}
            else:
                _judge(upload, path, tick)
            upload.state = Upload.State.JUDGED
        except BadArchive as error:
            upload.state, upload.message = Upload.State.REFUSED, str(error)
            path.unlink(missing_ok=True)
        progress(job, total, total)
        upload.save()


def _known(upload: Upload) -> Build | None:
    """A build with the same checksum, which the owner may see."""
    rows = Build.objects.filter(sha256=upload.sha256, mod__game__slug=upload.game).select_related("mod")
    shelves = shelves_of(upload.owner)
    return next((b for b in rows if b.mod.shelf_id is None or b.mod.shelf_id in shelves), None)


def _judge(upload: Upload, path: Path, tick: Any) -> None:
    game = game_value(upload.game)
    if not is_archive(path):
        raise BadArchive("This is not a zip, tar or 7z archive, so no mod. It was not taken.")
    listing = look_into(path, manifest_names(game), tick)
    if not listing.contents:
        raise BadArchive("The archive is empty. It was not taken.")
    if bad := unsafe_paths(listing.contents):
        raise BadArchive(f"The archive cannot be placed safely, so it was not taken. {bad[0]}")
    facts = {path: manifest_facts(path, data) for path, data in listing.manifests.items()}
    proposal = judge(game, upload.name, listing.contents, facts)
    upload.contents = msgspec.to_builtins(listing.contents)
    upload.report = {"proposal": msgspec.to_builtins(proposal)}


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def keep(upload: Upload) -> str:
    """Keeps the file of an upload and gives the address it has from now on."""
    path = part_of(upload)
    storage = storages["blobs"]
    if not Blob.objects.filter(pk=upload.sha256).exists():
        if not storage.exists(upload.sha256):
            with path.open("rb") as file:
                storage.save(upload.sha256, File(file))
        Blob.objects.get_or_create(sha256=upload.sha256, defaults={"size": upload.size})
    path.unlink(missing_ok=True)
    return f"{settings.PUBLIC_ADDRESS}/files/{upload.sha256}/{upload.name}"


def discard(upload: Upload) -> None:
    """Forgets an upload and its bytes."""
    part_of(upload).unlink(missing_ok=True)
    upload.delete()


def contents_of(upload: Upload) -> tuple[ContentFile, ...]:
    """What is inside an upload that was judged."""
    return msgspec.convert(upload.contents, tuple[ContentFile, ...])


def clean_up() -> None:
    """Forgets uploads that nobody went on with."""
    for upload in Upload.objects.filter(created__lt=timezone.now() - KEPT_FOR):
        discard(upload)
    with contextlib.suppress(FileNotFoundError):
        known = {f"{pk}.part" for pk in Upload.objects.values_list("pk", flat=True)}
        limit = (timezone.now() - KEPT_FOR).timestamp()
        for entry in os.scandir(settings.UPLOADS):
            if entry.name not in known and entry.stat().st_mtime < limit:
                os.unlink(entry.path)
