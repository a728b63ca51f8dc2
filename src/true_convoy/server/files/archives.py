"""Looking into archives that nobody has checked: zip, tar and 7z. Nothing is unpacked to disk.

An archive is hostile until it was read whole: the limits below count what really comes out of it, not what it says of
itself. Refused are encrypted, broken and other archives, links and devices, far too many or too deep files, and
archives that grow more than any honest one does.
"""

import bz2
import configparser
import hashlib
import lzma
import re
import tarfile
import tomllib
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

import msgspec
import py7zr
from lxml import etree
from py7zr.exceptions import ArchiveError
from py7zr.io import Py7zIO, WriterFactory

from true_convoy.core.errors import ConvoyError
from true_convoy.core.model import ContentFile

MAX_FILES = 20_000
MAX_UNPACKED = 8 * 1024**3
MAX_RATIO = 250
MAX_DEPTH = 30
MAX_MANIFEST = 256 * 1024
_CHUNK = 1 << 18
_BROKEN = "The archive is broken or cut off. Nothing was taken; fetch or make it again."
_FAILURES = (zipfile.BadZipFile, tarfile.TarError, ArchiveError, zlib.error, lzma.LZMAError, EOFError, OSError)


class BadArchive(ConvoyError):
    """An archive that is not taken, with the reason."""


@dataclass(frozen=True, kw_only=True)
class Listing:
    """What is inside an archive, and the bytes of the manifests that were asked for, by path."""

    contents: tuple[ContentFile, ...]
    manifests: dict[str, bytes]


@dataclass
class _Taker:
    """Takes in the files of an archive one by one, and refuses it once it is over a limit."""

    packed: int
    wanted: frozenset[str]
    tick: Callable[[int], None]
    contents: list[ContentFile] = field(default_factory=list)
    manifests: dict[str, bytes] = field(default_factory=dict)
    unpacked: int = 0

    def name(self, name: str) -> str:
        """A file's path as archives mean it. Raises BadArchive where there are too many, or it is too deep."""
        path = name.replace("\\", "/")
        while path.startswith("./"):
            path = path[2:]
        if len(self.contents) >= MAX_FILES:
            raise BadArchive(f"The archive holds more than {MAX_FILES:,} files, which no mod needs. It was not taken.")
        if path.count("/") > MAX_DEPTH:
            raise BadArchive("The archive's folders are nested far deeper than any mod's. It was not taken.")
        return path

    def grow(self, number: int) -> None:
        """Counts bytes that came out. Raises BadArchive where they are more than can be honest."""
        self.unpacked += number
        if self.unpacked > MAX_UNPACKED or self.unpacked > max(self.packed, 100_000) * MAX_RATIO:
            raise BadArchive(
                "The archive unpacks to far more than its size, as archives made to do harm do. It was not taken."
            )

    def keep(self, path: str, size: int, digest: str, data: bytes | None) -> None:
        self.contents.append(ContentFile(path=path, size=size, sha256=digest))
        if data is not None:
            self.manifests[path] = data
        self.tick(self.unpacked)

    def is_wanted(self, path: str) -> bool:
        return path.rpartition("/")[2].lower() in self.wanted

    def take(self, name: str, stream: IO[bytes]) -> None:
        """Reads one file to its end."""
        path, digest, size = self.name(name), hashlib.sha256(), 0
        data = bytearray() if self.is_wanted(path) else None
        while chunk := stream.read(_CHUNK):
            self.grow(len(chunk))
            digest.update(chunk)
            size += len(chunk)
            if data is not None and len(data) < MAX_MANIFEST:
                data += chunk
        self.keep(path, size, digest.hexdigest(), bytes(data) if data is not None else None)


def look_into(path: Path, wanted: frozenset[str], tick: Callable[[int], None] = lambda done: None) -> Listing:
    """What is inside an archive; ``wanted`` are file names in small letters whose bytes are kept.

    ``tick`` is called with the bytes read so far. Raises BadArchive with a sentence.
    """
    taker = _Taker(packed=path.stat().st_size, wanted=wanted, tick=tick)
    with path.open("rb") as file:
        head = file.read(8)
    try:
        if head.startswith(b"PK"):
            _zip(path, taker)
        elif head.startswith(b"7z\xbc\xaf\x27\x1c"):
            _seven(path, taker)
        elif tarfile.is_tarfile(path):
            _tar(path, taker)
        else:
            raise BadArchive("This is not a zip, tar or 7z archive. It was not taken.")
    except BadArchive:
        raise
    except RuntimeError as error:
        # How zipfile says that a password is needed.
        raise BadArchive(_encrypted() if "encrypted" in str(error) or "password" in str(error) else _BROKEN) from None
    except (*_FAILURES, NotImplementedError, ValueError, UnicodeDecodeError):
        raise BadArchive(_BROKEN) from None
    _refuse_doubles(taker.contents)
    return Listing(contents=tuple(taker.contents), manifests=taker.manifests)


def is_archive(path: Path) -> bool:
    """Whether a file begins as an archive we can look into."""
    with path.open("rb") as file:
        head = file.read(8)
    return head.startswith((b"PK", b"7z\xbc\xaf\x27\x1c")) or tarfile.is_tarfile(path)


def _encrypted() -> str:
    return "The archive is locked with a password, so nobody could check or place its files. It was not taken."


def _zip(path: Path, taker: _Taker) -> None:
    with zipfile.ZipFile(path) as archive:
        infos = [info for info in archive.infolist() if not info.is_dir()]
        if len(infos) > MAX_FILES:
            taker.contents.extend([ContentFile(path="x")] * MAX_FILES)
        for info in infos:
            if info.flag_bits & 0x1:
                raise BadArchive(_encrypted())
            if (info.external_attr >> 16) & 0o170000 == 0o120000:
                raise BadArchive(_linked(info.filename))
            with archive.open(info) as stream:
                taker.take(info.filename, stream)


def _tar(path: Path, taker: _Taker) -> None:
    with _Counted(path, taker) as counted, tarfile.open(fileobj=counted, mode="r|*") as archive:
        for member in archive:
            if member.isdir():
                continue
            stream = archive.extractfile(member) if member.isfile() else None
            if stream is None:
                raise BadArchive(_linked(member.name))
            taker.take(member.name, stream)


def _linked(name: str) -> str:
    return f'The archive holds a link or a device ("{name[:120]}"), which could lead anywhere. It was not taken.'


class _Counted:
    """A compressed or plain tar as a stream; what is skipped inside it counts as unpacked too."""

    def __init__(self, path: Path, taker: _Taker) -> None:
        head = path.open("rb").read(6)
        if head.startswith(b"\x1f\x8b"):
            import gzip

            self.file: Any = gzip.open(path)  # noqa: SIM115
        elif head.startswith(b"BZh"):
            self.file = bz2.open(path)  # noqa: SIM115
        elif head.startswith(b"\xfd7zXZ"):
            self.file = lzma.open(path)  # noqa: SIM115
        else:
            self.file = path.open("rb")
        self.read_so_far, self.taker = 0, taker

    def __enter__(self) -> Any:
        return self

    def __exit__(self, *_: Any) -> None:
        self.file.close()

    def read(self, size: int = -1) -> bytes:
        data: bytes = self.file.read(size)
        self.read_so_far += len(data)
        if self.read_so_far > max(self.taker.packed, 100_000) * MAX_RATIO:
            self.taker.grow(MAX_UNPACKED + 1)
        return data


class _Hashing(Py7zIO):
    """Takes in one file of a 7z archive as it is unpacked, without keeping it."""

    def __init__(self, path: str, taker: _Taker) -> None:
        self.path, self.taker = path, taker
        self.digest, self.length = hashlib.sha256(), 0
        self.data: bytearray | None = bytearray() if taker.is_wanted(path) else None

    def write(self, s: bytes | bytearray) -> int:
        self.taker.grow(len(s))
        self.digest.update(s)
        self.length += len(s)
        if self.data is not None and len(self.data) < MAX_MANIFEST:
            self.data += s
        return len(s)

    def read(self, size: int | None = None) -> bytes:
        return b""

    def seek(self, offset: int, whence: int = 0) -> int:
        return offset

    def flush(self) -> None:
        return None

    def size(self) -> int:
        return self.length


class _Factory(WriterFactory):
    def __init__(self, taker: _Taker) -> None:
        self.taker = taker
        self.made: list[_Hashing] = []

    def create(self, filename: str) -> Py7zIO:
        self.made.append(_Hashing(filename.replace("\\", "/"), self.taker))
        return self.made[-1]


def _seven(path: Path, taker: _Taker) -> None:
    with py7zr.SevenZipFile(path) as archive:
        if archive.needs_password():
            raise BadArchive(_encrypted())
        for member in archive.list():
            if not member.is_directory:
                taker.name(member.filename)
                if getattr(member, "is_symlink", False):
                    raise BadArchive(_linked(member.filename))
        factory = _Factory(taker)
        archive.extractall(factory=factory)  # noqa: S202 -- into memory only, file by file
    for made in factory.made:
        name = taker.name(made.path)
        taker.keep(name, made.length, made.digest.hexdigest(), bytes(made.data) if made.data is not None else None)


def _refuse_doubles(contents: list[ContentFile]) -> None:
    seen = set()
    for item in contents:
        if item.path in seen:
            raise BadArchive(f'The archive holds "{item.path[:120]}" twice, so nobody could say which is meant.')
        seen.add(item.path)


# --- manifests -------------------------------------------------------------------------------------------------


def manifest_facts(name: str, data: bytes) -> dict[str, str]:
    """The id, name and version a manifest states, whatever it is written in; what cannot be read states nothing."""
    suffix = name.lower().rpartition(".")[2]
    try:
        text = data.decode("utf-8-sig")
        if suffix == "toml":
            values = _flat(tomllib.loads(text))
        elif suffix == "json":
            values = _flat(msgspec.json.decode(text))
        elif suffix == "xml":
            values = _flat_xml(data)
        else:
            parser = configparser.ConfigParser(interpolation=None)
            parser.read_string(text if re.match(r"\s*\[", text) else f"[mod]\n{text}")
            values = {key: value for section in parser.sections() for key, value in parser.items(section)}
    except (ValueError, RecursionError, etree.XMLSyntaxError, configparser.Error):
        return {}
    found = {key: next((values[k] for k in keys if k in values), "") for key, keys in _KEYS.items()}
    return {key: _clean(value) for key, value in found.items() if _clean(value)}


_KEYS = {"id": ("id", "slug", "identifier"), "name": ("name", "title", "displayname"), "version": ("version",)}


def _clean(value: str) -> str:
    return "".join(c for c in value if c.isprintable()).strip()[:200]


def _flat(values: Any) -> dict[str, str]:
    """The plain values of a table and of the tables in it, the outer ones first."""
    found: dict[str, str] = {}
    queue = [values]
    while queue:
        table = queue.pop(0)
        if isinstance(table, dict):
            for key, value in table.items():
                if isinstance(value, str | int | float):
                    found.setdefault(str(key).lower(), str(value))
                else:
                    queue.append(value)
    return found


def _flat_xml(data: bytes) -> dict[str, str]:
    """The texts and attributes of a manifest in XML; entities and outside references are not followed."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    root = etree.fromstring(data, parser)
    found: dict[str, str] = {}
    for element in _elements(root):
        for key, value in element.attrib.items():
            found.setdefault(str(key).lower(), str(value))
        if element.text and element.text.strip():
            found.setdefault(str(element.tag).lower(), element.text)
    return found


def _elements(root: Any) -> Iterator[Any]:
    return (element for element in root.iter() if isinstance(element.tag, str))
