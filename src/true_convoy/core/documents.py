"""Reading and writing the documents of docs/formats.

The rules, in the order the code follows them:

1. A document is UTF-8 JSON, an object, with the expected ``format`` and ``format_version``.
2. A wrong type or a missing key is an error that names the JSON path.
3. Ranges, and paths that a rig would be given, must be valid; slugs must be unique. Also errors with their path.
4. Unknown keys are kept when a document is read, changed and written again, and listed as notes.
"""

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import msgspec
import rfc8785

from .errors import DocumentError, RangeError, UnsafePath
from .model import Bundles, Catalogue, Inventory, Kind, Mod, Pack, Release, Requires
from .paths import safe_path
from .ranges import parse_range

FORMATS: dict[type, str] = {
    Catalogue: "true-convoy/catalogue",
    Pack: "true-convoy/pack",
    Release: "true-convoy/release",
    Inventory: "true-convoy/inventory",
}
FORMAT_VERSION = 1
_IDENTITY = ("slug", "mod", "path", "id", "label", "version")
T = TypeVar("T", Catalogue, Pack, Release, Inventory)


@dataclass(frozen=True, kw_only=True)
class Document(Generic[T]):
    """A document that was read: its value, the unknown keys it came with, and a note for each of those."""

    value: T
    raw: dict[str, Any]
    notes: tuple[str, ...]


def read(kind: type[T], data: bytes | str) -> Document[T]:
    """Reads a document. Raises DocumentError, with the JSON path, if it is not a valid one."""
    try:
        raw = msgspec.json.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise DocumentError("$", f"this is not a JSON document ({error})") from None
    value = from_builtins(kind, raw)
    return Document(value=value, raw=raw, notes=tuple(_unknown_keys(raw, to_builtins(value), "$")))


def from_builtins(kind: type[T], raw: Any) -> T:
    """Checks a decoded document and gives its value. Raises DocumentError."""
    expected = FORMATS[kind]
    if not isinstance(raw, dict):
        raise DocumentError("$", "a document is a JSON object")
    if raw.get("format") != expected:
        raise DocumentError("$.format", f'expected "{expected}", found {_shown(raw.get("format"))}')
    if raw.get("format_version") != FORMAT_VERSION or isinstance(raw.get("format_version"), bool | float):
        found = _shown(raw.get("format_version"))
        raise DocumentError("$.format_version", f"this program reads version {FORMAT_VERSION}, found {found}")
    try:
        value = msgspec.convert(raw, kind)
    except msgspec.ValidationError as error:
        raise _named(str(error)) from None
    except RecursionError:
        raise DocumentError("$", "the document is nested too deeply") from None
    for path, problem in _problems(value):
        raise DocumentError(path, problem)
    return value


def to_builtins(value: T) -> dict[str, Any]:
    """The document of a value as plain JSON values, with ``format`` and ``format_version`` first."""
    return {
        "format": FORMATS[type(value)],
        "format_version": FORMAT_VERSION,
        **msgspec.to_builtins(value, order="deterministic"),
    }


def write(value: T, came_from: Document[T] | None = None) -> bytes:
    """The document as indented JSON; keys unknown to us in the document it came from are written back in place."""
    made = to_builtins(value)
    if came_from is not None:
        made = _with_unknown(made, came_from.raw)
    return msgspec.json.format(msgspec.json.encode(made), indent=2) + b"\n"


def canonical(value: Any) -> bytes:
    """The RFC 8785 form of plain JSON values."""
    return rfc8785.dumps(value)


def schemas() -> dict[str, dict[str, Any]]:
    """The JSON Schema (2020-12) of each document, by its short name."""
    found = {}
    for kind, name in FORMATS.items():
        (schema,), parts = msgspec.json.schema_components((kind,), ref_template="#/$defs/{name}")
        top = parts.pop(kind.__name__)
        top["properties"] = {
            "format": {"const": name},
            "format_version": {"const": FORMAT_VERSION},
            **top["properties"],
        }
        top["required"] = ["format", "format_version", *top.get("required", [])]
        found[name.partition("/")[2]] = {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            **{key: value for key, value in schema.items() if key != "$ref"},
            **top,
            "$defs": parts,
        }
    return found


def _named(message: str) -> DocumentError:
    """msgspec's message, taken apart into path and problem; a missing key is named at its own path."""
    problem, _, path = message.rpartition(" - at `")
    problem, path = (problem, path.rstrip("`")) if problem else (message, "$")
    if match := re.fullmatch(r"Object missing required field `(.+)`", problem):
        return DocumentError(f"{path}.{match[1]}", "this key is missing")
    return DocumentError(path, problem)


def _shown(value: Any) -> str:
    return msgspec.json.encode(value).decode()[:60] if value is not None else "nothing"


def _problems(value: Catalogue | Pack | Release | Inventory) -> Iterator[tuple[str, str]]:
    if isinstance(value, Catalogue):
        yield from _catalogue_problems(value)
    elif isinstance(value, Pack | Release):
        yield from _pack_problems(value)


def _bad_range(text: str | None) -> str | None:
    try:
        if text is not None:
            parse_range(text)
    except RangeError as error:
        return str(error)
    return None


def _bad_path(text: str) -> str | None:
    try:
        safe_path(text)
    except UnsafePath as error:
        return str(error)
    return None


def _repeated(paths: Iterable[tuple[str, str]], what: str) -> Iterator[tuple[str, str]]:
    seen = set()
    for path, key in paths:
        if key in seen:
            yield path, f'the {what} "{key}" is there twice'
        seen.add(key)


def _catalogue_problems(catalogue: Catalogue) -> Iterator[tuple[str, str]]:
    yield from _repeated(((f"$.games[{i}].slug", game.slug) for i, game in enumerate(catalogue.games)), "game")
    yield from _repeated(
        ((f"$.mods[{i}].slug", f"{mod.game}/{mod.slug}") for i, mod in enumerate(catalogue.mods)), "mod"
    )
    for i, game in enumerate(catalogue.games):
        for j, kind in enumerate(game.kinds):
            yield from _kind_problems(f"$.games[{i}].kinds[{j}]", kind)
        for j, loader in enumerate(game.loaders):
            for k, version in enumerate(loader.versions):
                if problem := _bad_range(version.game_versions):
                    yield f"$.games[{i}].loaders[{j}].versions[{k}].game_versions", problem
    for i, mod in enumerate(catalogue.mods):
        yield from _mod_problems(f"$.mods[{i}]", mod)


def _kind_problems(path: str, kind: Kind) -> Iterator[tuple[str, str]]:
    if kind.folder and (problem := _bad_path(kind.folder)):
        yield f"{path}.folder", problem


def _mod_problems(path: str, mod: Mod) -> Iterator[tuple[str, str]]:
    yield from _repeated(((f"{path}.builds[{i}].version", b.version) for i, b in enumerate(mod.builds)), "version")
    for i, build in enumerate(mod.builds):
        here = f"{path}.builds[{i}]"
        for key in ("game_versions", "loader_versions"):
            if problem := _bad_range(getattr(build, key)):
                yield f"{here}.{key}", problem
        for j, relation in enumerate(build.relations):
            at = f"{here}.relations[{j}]"
            if isinstance(relation, Requires):
                if not relation.targets:
                    yield at, 'a requirement needs "mod" or "any"'
                for k, target in enumerate(relation.any):
                    if problem := _bad_range(target.versions):
                        yield f"{at}.any[{k}].versions", problem
            if not isinstance(relation, Bundles) and (problem := _bad_range(getattr(relation, "versions", None))):
                yield f"{at}.versions", problem


def _pack_problems(pack: Pack | Release) -> Iterator[tuple[str, str]]:
    yield from _repeated(((f"$.entries[{i}].mod", entry.mod) for i, entry in enumerate(pack.entries)), "mod")
    for i, file in enumerate(pack.files):
        if problem := _bad_path(file.path):
            yield f"$.files[{i}].path", problem
    for i, setting in enumerate(pack.settings):
        if problem := _bad_path(setting.file):
            yield f"$.settings[{i}].file", problem
    if isinstance(pack, Release):
        for i, entry in enumerate(pack.entries):
            for j, place in enumerate(entry.places):
                if problem := _bad_path(place.target):
                    yield f"$.entries[{i}].places[{j}].target", problem


def _identity(item: Any) -> Callable[[Any], bool] | None:
    """What recognises a list item again after a change: its first identifying key."""
    if not isinstance(item, dict):
        return None
    key = next((key for key in _IDENTITY if isinstance(item.get(key), str)), None)
    return (lambda other: isinstance(other, dict) and other.get(key) == item[key]) if key else None


def _unknown_keys(raw: Any, known: Any, path: str) -> Iterator[str]:
    if isinstance(raw, dict) and isinstance(known, dict):
        for key, value in raw.items():
            if key not in known:
                yield f'{path}.{key}: the key "{key}" is not known here; it was kept and not used'
            else:
                yield from _unknown_keys(value, known[key], f"{path}.{key}")
    elif isinstance(raw, list) and isinstance(known, list | tuple) and len(raw) == len(known):
        for i, (old, new) in enumerate(zip(raw, known, strict=True)):
            yield from _unknown_keys(old, new, f"{path}[{i}]")


def _with_unknown(made: Any, raw: Any) -> Any:
    if isinstance(made, dict) and isinstance(raw, dict):
        merged = {key: _with_unknown(value, raw[key]) if key in raw else value for key, value in made.items()}
        return merged | {key: value for key, value in raw.items() if key not in made}
    if isinstance(made, list | tuple) and isinstance(raw, list):
        return [_with_unknown(item, _again(item, raw)) for item in made]
    return made


def _again(item: Any, raw: list[Any]) -> Any:
    same = _identity(item)
    return next((other for other in raw if same(other)), None) if same else None
