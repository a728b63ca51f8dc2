"""Bringing files piece by piece, seeing what they were found to be, and handing kept files out."""

import asyncio
import re
import uuid
from collections.abc import AsyncIterator
from typing import IO, Annotated, Any, ClassVar

import msgspec
from django.core.files.storage import storages
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from msgspec import Meta
from rest_framework.parsers import BaseParser, JSONParser
from rest_framework.request import Request

from true_convoy.core.intake import Judgement

from ..access import Refusal, Who
from ..frame import View, operation
from . import actions
from .models import Blob, Upload
from .pictures import take_picture

_CHUNK = 1 << 18


class UploadRequest(msgspec.Struct, kw_only=True):
    """A file that is about to come: for which game, its name, its size in bytes, and a mark to know it again by."""

    game: str
    name: Annotated[str, Meta(min_length=1, max_length=255)]
    size: int
    mark: Annotated[str, Meta(max_length=64)] = ""


class KnownBuild(msgspec.Struct, kw_only=True):
    """A build of the catalogue that a file was recognised as."""

    mod: str
    name: str
    version: str


class UploadInfo(msgspec.Struct, kw_only=True):
    """How far an upload is; ``state`` is receiving, looking, judged or refused. Sizes in bytes."""

    id: str
    name: str
    size: int
    received: int
    state: str
    sha256: str
    message: str
    files: int
    unpacked: int
    known: KnownBuild | None
    proposal: Judgement | None


class Raw(BaseParser):
    """Bytes as they are."""

    media_type = "application/octet-stream"

    def parse(self, stream: IO[bytes], media_type: str | None = None, parser_context: Any = None) -> bytes:
        return stream.read(actions.MAX_PIECE + 1)


def upload_info(upload: Upload) -> UploadInfo:
    """An upload as the interface shows it."""
    known, proposal = upload.report.get("known"), upload.report.get("proposal")
    return UploadInfo(
        id=str(upload.pk),
        name=upload.name,
        size=upload.size,
        received=upload.received,
        state=upload.state,
        sha256=upload.sha256,
        message=upload.message,
        files=len(upload.contents),
        unpacked=sum(item["size"] for item in upload.contents),
        known=msgspec.convert(known, KnownBuild) if known else None,
        proposal=msgspec.convert(proposal, Judgement) if proposal else None,
    )


def own_upload(request: Request, upload: str) -> Upload:
    """An upload of the caller. Raises Http404, or Refusal where it is no name of one."""
    try:
        key = uuid.UUID(upload)
    except ValueError:
        raise Refusal(404, "no-upload", "There is no such upload.") from None
    return get_object_or_404(Upload, pk=key, owner=request.user)


class UploadsView(View):
    """Beginning uploads."""

    @operation(Who.SIGNED_IN, takes=UploadRequest, gives=UploadInfo, status=201)
    def post(self, request: Request, body: UploadRequest) -> UploadInfo:
        """Begins an upload, which then comes in pieces of up to 16 MB."""
        return upload_info(actions.begin(request.user, body.game, body.name, body.size, body.mark))


class UploadView(View):
    """One of the caller's uploads."""

    parser_classes: ClassVar[list[Any]] = [Raw, JSONParser]

    @operation(Who.SIGNED_IN, gives=UploadInfo)
    def get(self, request: Request, upload: str) -> UploadInfo:
        """How far an upload is, and what it was found to be."""
        return upload_info(own_upload(request, upload))

    @operation(Who.SIGNED_IN, gives=UploadInfo, query={"at": "The byte at which this piece begins."})
    def put(self, request: Request, upload: str) -> UploadInfo:
        """Takes the next piece, as plain bytes; when the last has come, the file is looked into in the background."""
        found = own_upload(request, upload)
        at, data = request.query_params.get("at", ""), request.data
        if not at.isdigit() or not isinstance(data, bytes) or not data:
            raise Refusal(400, "piece", "A piece is sent as plain bytes, with the place where it begins.")
        if len(data) > actions.MAX_PIECE:
            raise Refusal(413, "piece", "A piece may have up to 16 MB.")
        found = actions.receive(found, int(at), data)
        if found.received == found.size:
            actions.arrived(found)
        return upload_info(found)

    @operation(Who.SIGNED_IN, gives=UploadInfo)
    def delete(self, request: Request, upload: str) -> UploadInfo:
        """Cancels an upload and forgets what has come."""
        found = own_upload(request, upload)
        told = upload_info(found)
        actions.discard(found)
        return told


class PictureInfo(msgspec.Struct, kw_only=True):
    """A picture that was taken in: the checksum by which it is shown and named in a pack."""

    picture: str


class PicturesView(View):
    """Pictures of packs."""

    parser_classes: ClassVar[list[Any]] = [Raw, JSONParser]

    @operation(Who.SIGNED_IN, gives=PictureInfo, status=201)
    def post(self, request: Request) -> PictureInfo:
        """Takes a picture as plain bytes (PNG, JPEG or WebP, up to 5 MB); it is cut to a square and drawn anew."""
        data = request.data
        if not isinstance(data, bytes) or not data:
            raise Refusal(400, "picture", "A picture is sent as plain bytes.")
        return PictureInfo(picture=take_picture(data))


def show_picture(request: HttpRequest, sha256: str) -> HttpResponse:
    """GET /pictures/CHECKSUM: a picture of a pack, to anyone who knows its checksum."""
    if not re.fullmatch(r"[0-9a-f]{64}", sha256) or not storages["blobs"].exists(f"{sha256}.png"):
        return HttpResponse("There is no such picture.", status=404, content_type="text/plain")
    with storages["blobs"].open(f"{sha256}.png") as file:
        response = HttpResponse(file.read(), content_type="image/png")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


# --- handing out -----------------------------------------------------------------------------------------------


async def hand_out(request: HttpRequest, sha256: str, name: str) -> HttpResponse:
    """GET /files/CHECKSUM/NAME: a kept file, to anyone who knows its checksum; a range of it where one is asked."""
    blob = await Blob.objects.filter(pk=sha256).afirst()
    if blob is None or request.method not in ("GET", "HEAD"):
        return HttpResponse("There is no such file.", status=404, content_type="text/plain")
    start, end, status = 0, blob.size - 1, 200
    asked = re.fullmatch(r"bytes=(\d+)-(\d*)", request.headers.get("Range", ""))
    if asked is not None:
        start, end, status = int(asked[1]), min(int(asked[2] or end), end), 206
        if start > end:
            return HttpResponse(status=416, headers={"Content-Range": f"bytes */{blob.size}"})
    response = StreamingHttpResponse(_bytes(sha256, start, end), status=status, content_type="application/octet-stream")
    response["Content-Length"] = end - start + 1
    response["Accept-Ranges"] = "bytes"
    response["ETag"] = f'"{sha256}"'
    response["Content-Disposition"] = "attachment"
    if status == 206:
        response["Content-Range"] = f"bytes {start}-{end}/{blob.size}"
    return response


async def _bytes(sha256: str, start: int, end: int) -> AsyncIterator[bytes]:
    file = await asyncio.to_thread(storages["blobs"].open, sha256)
    try:
        await asyncio.to_thread(file.seek, start)
        left = end - start + 1
        while left > 0 and (data := await asyncio.to_thread(file.read, min(_CHUNK, left))):
            left -= len(data)
            yield data
    finally:
        file.close()
