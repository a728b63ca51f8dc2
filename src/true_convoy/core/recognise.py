"""Recognising mods in any text somebody pastes: links, Package-URLs, slugs, names, CSV, lines from a chat.

The rules, in the order of the code:

1. Each line is read by itself. What a chat, a list or a table puts around a mod is taken off: times, speakers,
   bullets, numbers, quotes, a closing remark after a dash. Empty lines, comments and headings of tables say nothing.
2. From what is left come guesses, surest first: checksum, Package-URL, link, markdown link, then the text itself, its
   first cell, and both without the version they end in.
3. A guess is looked up as checksum, page, file name, slug and name, in this order; the first that is known is it.
4. A line whose mod stands on an earlier line is that line's double; one that names a version the mod does not have
   says so. A line of which nothing is known gets the mods with the most similar names.

The lookups are done by the caller, all lines at once: ``keys`` says what to look up, a ``Directory`` what was found.
"""

import csv
import enum
import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple
from urllib.parse import unquote, urlsplit

from .errors import ConvoyError
from .model import Pack

MAX_LINES = 2000
MAX_TEXT = 2_000_000
_MAX_LINE = 600
_SHA256 = re.compile(r"\b[0-9a-fA-F]{64}\b")
_PURL = re.compile(r"pkg:[A-Za-z0-9.+-]+/[^\s<>\"')\]]+", re.IGNORECASE)
_LINK = re.compile(r"https?://[^\s<>\"')\]|]+", re.IGNORECASE)
_MARKDOWN = re.compile(r"\[([^\]]+)\]\((https?://[^)\s]+)[^)]*\)")
_LEAD = re.compile(
    r"^(?:[>\s]+|[-*+•·–]\s+|\d{1,4}[.)]\s+|\[[ xX]\]\s+|\[\d{1,2}:\d{2}(?::\d{2})?(?: ?[ap]m)?\]\s*"
    r"|\d{1,2}:\d{2}(?::\d{2})?\s+|<[^<>]{1,40}>\s+|@?[\w .'-]{1,30}:\s+(?!//))",
    re.IGNORECASE,
)
_TRAIL = re.compile(r"(?:\s+[-–—]\s+.*|\s*[,;.!?]+)$")
_RULE = re.compile(r"[-=|:+\s]*[-=]{2}[-=|:+\s]*")
_VERSION = r"v?\d+(?:\.[0-9A-Za-z]+)*(?:[-+][0-9A-Za-z.+-]+)?"
_WITH_VERSION = re.compile(
    rf"(?P<name>.+?)(?:\s*[@=]{{1,2}}\s*|\s+v(?:ersion)?\.?\s*|\s+|\s*\()(?P<version>{_VERSION})\)?$"
)
_FILE = re.compile(rf"(?P<name>.+?)[-_ ](?P<version>{_VERSION})$")
_ARCHIVE = re.compile(r"\.(?:zip|7z|rar|jar|tar|tar\.gz|tgz|tar\.xz|tar\.bz2)$", re.IGNORECASE)
_HEADINGS = {"name", "mod", "mods", "slug", "title", "entry", "version", "build", "link", "url", "page", "file"}


class TooMuch(ConvoyError):
    """More was pasted than is looked at in one go."""


class Guess(NamedTuple):
    """What a line may mean: a key to look up, folded, and the version it names with it."""

    key: str
    version: str | None


@dataclass(frozen=True, kw_only=True)
class Line:
    """A line of the text that may name a mod: its number from 1, as it stands, and the guesses, surest first."""

    number: int
    text: str
    guesses: tuple[Guess, ...]
    problem: str = ""


class Answer(enum.StrEnum):
    """What became of a line."""

    FOUND = "found"
    ALREADY = "already"
    TWICE = "twice"
    UNKNOWN = "unknown"
    UNREADABLE = "unreadable"


@dataclass(frozen=True, kw_only=True)
class Known:
    """A mod the directory knows: its name and the versions it has, newest first."""

    mod: str
    name: str
    versions: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Directory:
    """What the catalogue knows of the keys of a text: mods by slug, and each key's mod (and version, for a file)."""

    mods: Mapping[str, Known]
    keys: Mapping[str, Guess]
    near: Mapping[str, Sequence[str]] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Recognised:
    """A line and what it was taken for. ``version`` is what it named and the mod has; ``note`` says what was odd."""

    number: int
    text: str
    answer: Answer
    mod: str | None
    name: str
    version: str | None
    versions: tuple[str, ...]
    near: tuple[str, ...]
    note: str


def folded(text: str) -> str:
    """A text as it is compared: without case, marks of punctuation and accents count as nothing."""
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKD", text).casefold())
    return " ".join("".join(c if c.isalnum() else " " for c in plain if not unicodedata.combining(c)).split())


def read(text: str) -> list[Line]:
    """The lines of a text that may name mods. Raises TooMuch with a sentence."""
    rows = text.splitlines()
    if len(text) > MAX_TEXT or sum(bool(row.strip()) for row in rows) > MAX_LINES:
        raise TooMuch(f"At most {MAX_LINES:,} lines are looked at in one go. Nothing was added; paste it in parts.")
    lines = (_line(number, row) for number, row in enumerate(rows, 1))
    return [line for line in lines if line is not None]


def _line(number: int, row: str) -> Line | None:
    text = "".join(" " if c == "\t" else c for c in unicodedata.normalize("NFC", row) if _shown(c)).strip()
    if not text or _RULE.fullmatch(text) or (text.startswith(("#", "//", "```")) and not _LINK.search(text)):
        return None
    if len(text) > _MAX_LINE:
        shown = f"{text[:80]}…"
        return Line(number=number, text=shown, guesses=(), problem="The line is too long to be the name of a mod.")
    guesses = tuple(dict.fromkeys(guess for guess in _guesses(text, "\t" in row) if guess.key))
    words = set(folded(text).split())
    if words and words <= _HEADINGS:
        return None
    problem = "" if guesses else "There is no name in this line."
    return Line(number=number, text=text, guesses=guesses, problem=problem)


def _shown(character: str) -> bool:
    return character == "\t" or unicodedata.category(character) not in ("Cc", "Cf", "Cs", "Co")


def _guesses(text: str, table: bool) -> Iterable[Guess]:
    for match in _SHA256.finditer(text):
        yield Guess(match[0].lower(), None)
    for match in _PURL.finditer(text):
        yield from _of_purl(match[0])
    for match in _MARKDOWN.finditer(text):
        yield from _of_link(match[2])
        yield from _of_text(match[1])
    for match in _LINK.finditer(text):
        yield from _of_link(match[0].rstrip(".,;:!?"))
    rest = _LINK.sub(" ", _MARKDOWN.sub(lambda match: match[1], _SHA256.sub(" ", _PURL.sub(" ", text)))).strip()
    bare = _without_lead(rest)
    for candidate in dict.fromkeys((bare, _TRAIL.sub("", bare), rest)):
        yield from _of_text(candidate)
    cells = _cells(bare, table)
    if len(cells) > 1:
        version = next((cell for cell in cells[1:] if re.fullmatch(_VERSION, cell)), None)
        for cell in cells[:2]:
            key = folded(cell)
            if key:
                yield Guess(key, version.removeprefix("v") if version else None)


def _without_lead(text: str) -> str:
    while (shorter := _LEAD.sub("", text, count=1)) != text and shorter:
        text = shorter
    return text.strip(" \"'`*_“”„‘’")


def _cells(text: str, table: bool) -> list[str]:
    if table or ";" in text or "," in text or "|" in text:
        delimiter = "\t" if table and "\t" in text else ";" if ";" in text else "|" if "|" in text else ","
        row = next(csv.reader([text.strip("|")], delimiter=delimiter, skipinitialspace=True), [])
        return [cell.strip() for cell in row if cell.strip()]
    return [text]


def _of_text(text: str) -> Iterable[Guess]:
    text = _ARCHIVE.sub("", text.strip())
    yield Guess(folded(text), None)
    for pattern in (_WITH_VERSION, _FILE):
        match = pattern.fullmatch(text)
        if match is not None:
            yield Guess(folded(match["name"]), match["version"].removeprefix("v"))


def _of_purl(text: str) -> Iterable[Guess]:
    """``pkg:type/namespace/name@version?qualifiers#subpath`` (Package-URL): its name and version."""
    path = text.partition("#")[0].partition("?")[0]
    name, _, version = path.rpartition("/")[2].partition("@")
    yield Guess(folded(unquote(name)), unquote(version) or None)


def _of_link(text: str) -> Iterable[Guess]:
    """A page as it stands, then the parts of its path from the last to the first."""
    parts = urlsplit(text)
    yield Guess(page_key(text), None)
    for part in reversed([unquote(part) for part in parts.path.split("/") if part]):
        yield from _of_text(part)


def page_key(address: str) -> str:
    """A page's address as it is compared: without scheme, ``www.``, query and closing slash."""
    parts = urlsplit(address)
    return f"{parts.netloc.lower().removeprefix('www.')}{parts.path.rstrip('/')}"


def keys(lines: Iterable[Line]) -> frozenset[str]:
    """All that has to be looked up."""
    return frozenset(guess.key for line in lines for guess in line.guesses)


def unknown(lines: Iterable[Line], directory: Directory) -> list[str]:
    """The texts, folded, of the lines of which nothing is known: what to find similar names for."""
    found = [line for line in lines if line.guesses and _known(line, directory) is None]
    return list(dict.fromkeys(_likeliest(line) for line in found))


def _likeliest(line: Line) -> str:
    """The guess that looks most like a name: the shortest without a version, not counting addresses."""
    names = [guess.key for guess in line.guesses if "/" not in guess.key and len(guess.key) < 64]
    return min(names, key=len, default=line.guesses[0].key)


def _known(line: Line, directory: Directory) -> tuple[Known, str | None] | None:
    for guess in line.guesses:
        meant = directory.keys.get(guess.key)
        if meant is not None and meant.key in directory.mods:
            return directory.mods[meant.key], meant.version or guess.version
    return None


def recognise(lines: Iterable[Line], directory: Directory, pack: Pack) -> list[Recognised]:
    """What each line was taken for, in order."""
    seen: dict[str, int] = {}
    found = []
    for line in lines:
        found.append(_recognised(line, directory, pack, seen))
    return found


def _recognised(line: Line, directory: Directory, pack: Pack, seen: dict[str, int]) -> Recognised:
    known = _known(line, directory)
    if known is None:
        near = tuple(directory.near.get(_likeliest(line), ())) if line.guesses else ()
        answer = Answer.UNKNOWN if line.guesses else Answer.UNREADABLE
        note = line.problem or ("Nothing in the catalogue has this name." if not near else "Did you mean one of these?")
        return _result(line, answer, None, None, note, near)
    mod, version = known
    note = ""
    if version is not None and version not in mod.versions:
        note, version = f"{mod.name} has no build {version}; the best fitting one is taken.", None
    if mod.mod in seen:
        return _result(line, Answer.TWICE, mod, version, f"The same as line {seen[mod.mod]}.")
    seen[mod.mod] = line.number
    entry = pack.entry(mod.mod)
    if entry is not None and entry.enabled and entry.chosen:
        at = f" at {entry.version}" if entry.version else ""
        return _result(line, Answer.ALREADY, mod, version, f"It is in the draft{at}.")
    return _result(line, Answer.FOUND, mod, version, note)


def _result(
    line: Line, answer: Answer, mod: Known | None, version: str | None, note: str, near: tuple[str, ...] = ()
) -> Recognised:
    return Recognised(
        number=line.number,
        text=line.text,
        answer=answer,
        mod=mod.mod if mod else None,
        name=mod.name if mod else "",
        version=version,
        versions=mod.versions if mod else (),
        near=near,
        note=note,
    )
