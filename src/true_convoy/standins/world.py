"""Makes an invented world real: archives with manifests, settings and dummy assets, and the catalogue of them.

Everything follows from the world's table and a seed, so the same set-up gives the same bytes anywhere.
"""

import argparse
import hashlib
import random
import re
import tomllib
import zipfile
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path
from typing import Any

import msgspec

SEED = 20260503
_SIZES = {"s": (20_000, 160_000), "m": (160_000, 1_200_000), "l": (2_000_000, 6_000_000), "x": (12_000_000, 20_000_000)}
_SIDES = {"R": "required", "O": "optional", "U": "unsupported"}
_LOADERS = {"k": "keel", "o": "outrigger"}
_BUILD = re.compile(r"(?P<version>[^@]+)@(?P<low>[\d.]+)-(?P<high>[\d.]+)(?P<loaders>[ko]+)(?:~(?P<channel>\w+))?")
_RELATION = re.compile(r"(?:if (?P<only>\S+): )?(?P<kind>\w+) (?P<rest>.+)")
_TARGET = re.compile(r"(?P<mod>[a-z0-9-]+)(?: (?P<range>[<>=!][^ (]*))?(?: \((?P<reason>.*)\))?")
_BUILDS = 250
_NEVER_HOSTED = {"leviathan-rest"}
_RESOURCE_PACKS = {"old-paper", "hand-bells"}
_FIRST_DAY = {"2.2": (2025, 4, 14), "2.3": (2025, 9, 25), "2.4": (2026, 4, 9), "2.5": (2026, 10, 15)}


def load_world(name: str) -> dict[str, Any]:
    """The table of a world, as its TOML file has it."""
    return tomllib.loads(resources.files("true_convoy.standins.worlds").joinpath(f"{name}.toml").read_text())


def make_world(name: str, folder: Path, *, scale: int = 1) -> Path:
    """Writes the world's files and ``catalogue.json`` into a folder; the path of the catalogue.

    File sizes are divided by ``scale``. Addresses in the catalogue are relative to the host that serves it.
    """
    world = load_world(name)
    files = folder / "files"
    files.mkdir(parents=True, exist_ok=True)
    mods = [_mod(world, slug, row, files, scale) for slug, row in _with_more_builds(world["mods"])]
    catalogue = {
        "format": "true-convoy/catalogue",
        "format_version": 1,
        "games": [world["game"]],
        "mods": mods,
    }
    path = folder / "catalogue.json"
    path.write_bytes(msgspec.json.encode(catalogue))
    return path


def _with_more_builds(mods: dict[str, Any]) -> list[tuple[str, list[Any]]]:
    """Adds patch builds to the most installed mods until the world has its full number of builds."""
    rows = {slug: [row[0], row[1].split(), *row[2:]] for slug, row in mods.items()}
    missing = _BUILDS - sum(len(row[1]) for row in rows.values())
    for slug in sorted(rows, key=lambda slug: -rows[slug][0][7]):
        for text in list(rows[slug][1]):
            match = _BUILD.fullmatch(text)
            if match is None or not match["version"].endswith(".0") or match["channel"] or missing <= 0:
                continue
            patch = text.replace(match["version"], match["version"][:-1] + "1", 1)
            if not any(other.startswith(patch.partition("@")[0] + "@") for other in rows[slug][1]):
                rows[slug][1].insert(rows[slug][1].index(text) + 1, patch)
                missing -= 1
    return list(rows.items())


def _mod(world: dict[str, Any], slug: str, row: list[Any], files: Path, scale: int) -> dict[str, Any]:
    facts, builds, *relations = row
    name, authors, categories, licence, sides, reach, save_effect, installs, size, summary = facts
    return {
        "slug": slug,
        "game": world["game"]["slug"],
        "name": name,
        "kind": "resource-pack" if slug in _RESOURCE_PACKS else "mod",
        "version_scheme": "semver",
        "summary": summary,
        "description": f"{summary}\n\nMade by {' and '.join(authors.split('; '))}.",
        "authors": authors.split("; "),
        "categories": categories.split(", "),
        "licence": licence,
        "redistribution": "link-only" if licence.startswith("LicenseRef") else "allowed",
        "sides": {"client": _SIDES[sides[0]], "server": _SIDES[sides[1]]},
        "reach": reach,
        "save_effect": save_effect,
        "page": f"/pages/{slug}",
        "installs": installs,
        "builds": [_build(slug, name, text, i, relations, size, files, scale) for i, text in enumerate(builds)],
    }


def _build(
    slug: str, name: str, text: str, number: int, relations: list[str], size: str, files: Path, scale: int
) -> dict[str, Any]:
    match = _BUILD.fullmatch(text)
    if match is None:
        raise ValueError(f"{slug}: {text} is not a build")
    chance = random.Random(f"{SEED}/{slug}/{match['version']}")
    file, contents = _archive(slug, name, match["version"], chance, _SIZES[size], files, scale)
    first = datetime(*_FIRST_DAY[match["low"]], 18, tzinfo=UTC)
    published = first + timedelta(days=number * 16 + chance.randrange(9), minutes=chance.randrange(900))
    return {
        "version": match["version"],
        "channel": match["channel"] or "stable",
        "published": published.isoformat().replace("+00:00", "Z"),
        "game_versions": f"vers:generic/>={match['low']}|<{match['high']}",
        "loaders": [_LOADERS[letter] for letter in match["loaders"]] if slug not in _RESOURCE_PACKS else [],
        "loader_versions": None,
        "file": file | {"url": None if slug in _NEVER_HOSTED else f"/files/{file['name']}"},
        "relations": [made for line in relations if (made := _relation(line, match["version"]))],
        "contents": contents,
        "changelog": f"{name} {match['version']} for Tidewrack {match['low']} and newer.",
    }


def _relation(line: str, version: str) -> dict[str, Any] | None:
    match = _RELATION.fullmatch(line)
    if match is None:
        raise ValueError(f"{line} is not a relation")
    if match["only"] and not _satisfies(version, match["only"]):
        return None
    kind, rest = match["kind"], match["rest"]
    if rest.startswith("any "):
        return {"kind": kind, "any": [_target(part) for part in rest[4:].split(" | ")]}
    if kind == "bridges":
        return {"kind": kind, "mods": rest.split(" + ")}
    if kind == "bundles":
        mod, _, bundled = rest.partition(" ")
        return {"kind": kind, "mod": mod, "version": bundled}
    return {"kind": kind} | _target(rest)


def _target(text: str) -> dict[str, Any]:
    match = _TARGET.fullmatch(text.strip())
    if match is None:
        raise ValueError(f"{text} is not a target")
    made: dict[str, Any] = {"mod": match["mod"]}
    if match["range"]:
        made["versions"] = f"vers:semver/{match['range']}"
    if match["reason"]:
        made["reason"] = match["reason"]
    return made


def _satisfies(version: str, bound: str) -> bool:
    """Whether a version meets ``<X`` or ``>=X``; the world's own conditions use nothing else."""
    numbers = [int(part) for part in re.findall(r"\d+", version)[:3]]
    limit = [int(part) for part in re.findall(r"\d+", bound)]
    below = numbers[: len(limit)] < limit
    return below if bound.startswith("<") else not below


def _archive(
    slug: str, name: str, version: str, chance: random.Random, sizes: tuple[int, int], files: Path, scale: int
) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """Writes one archive; its file facts and the facts of what is inside."""
    total = max(chance.randrange(*sizes) // scale, 1500)
    parts = chance.randrange(2, 6)
    inside = {
        "tidewrack.mod.toml": f'id = "{slug}"\nname = "{name}"\nversion = "{version}"\n'.encode(),
        f"settings/{slug}.toml": _settings(slug, chance).encode(),
        "README.md": f"# {name}\n\nVersion {version}.\n".encode(),
    }
    for i in range(parts):
        inside[f"assets/{slug}/part{i + 1}.bin"] = chance.randbytes(total // parts)
    file_name = f"{slug}-{version}.zip"
    path = files / file_name
    with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
        for inner, data in inside.items():
            info = zipfile.ZipInfo(inner, date_time=(2026, 1, 1, 0, 0, 0))
            info.external_attr = 0o644 << 16
            archive.writestr(info, data)
    facts = {"name": file_name, "size": path.stat().st_size, "sha256": _sha256(path.read_bytes())}
    contents = [{"path": inner, "size": len(data), "sha256": _sha256(data)} for inner, data in inside.items()]
    return facts, contents


def _settings(slug: str, chance: random.Random) -> str:
    return (
        f"# Settings of {slug}\nenabled = true\n\n[play]\n"
        f"# How strongly it is felt, 0 to 100\nstrength = {chance.randrange(10, 90)}\n"
        f"# How far it reaches, in metres\nrange = {chance.choice([16, 24, 32, 48, 64])}\n"
    )


def _sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Make an invented world's files and catalogue.")
    parser.add_argument("folder", type=Path)
    parser.add_argument("--world", default="tidewrack")
    parser.add_argument("--scale", type=int, default=1)
    given = parser.parse_args()
    make_world(given.world, given.folder, scale=given.scale)
