"""Makes invented worlds real: archives with manifests, settings and dummy assets, and the catalogue of them.

Everything follows from the worlds' tables and a seed, so the same set-up gives the same bytes anywhere.
"""

import argparse
import hashlib
import random
import re
import tomllib
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path
from typing import Any

import msgspec

SEED = 20260503
_SIZES = {"s": (20_000, 160_000), "m": (160_000, 1_200_000), "l": (2_000_000, 6_000_000), "x": (12_000_000, 20_000_000)}
_SIDES = {"R": "required", "O": "optional", "U": "unsupported"}
_LOADERS = {"k": "keel", "o": "outrigger"}
_BUILD = re.compile(r"(?P<version>[^@]+)@(?P<low>[\d.]+)-(?P<high>[\d.]+)(?P<loaders>[a-z]*)(?:~(?P<channel>\w+))?")
_RELATION = re.compile(r"(?:if (?P<only>\S+): )?(?P<kind>\w+) (?P<rest>.+)")
_TARGET = re.compile(r"(?P<mod>[a-z0-9-]+)(?: (?P<range>[<>=!][^ (]*))?(?: \((?P<reason>.*)\))?")
WORLDS = ("tidewrack", "emberline", "quillmoor")
_OWN_FILES = ("file ", "same ")


def load_world(name: str) -> dict[str, Any]:
    """The table of a world, as its TOML file has it."""
    return tomllib.loads(resources.files("true_convoy.standins.worlds").joinpath(f"{name}.toml").read_text())


def make_worlds(names: Sequence[str], folder: Path, *, scale: int = 1) -> Path:
    """Writes the worlds' files and one ``catalogue.json`` of all into a folder; the path of the catalogue.

    File sizes are divided by ``scale``. Addresses in the catalogue are relative to the host that serves it.
    """
    files = folder / "files"
    files.mkdir(parents=True, exist_ok=True)
    made = [_World(table=load_world(name), files=files, scale=scale) for name in names]
    catalogue = {
        "format": "true-convoy/catalogue",
        "format_version": 1,
        "games": [world.table["game"] for world in made],
        "mods": [mod for world in made for mod in world.mods()],
    }
    path = folder / "catalogue.json"
    path.write_bytes(msgspec.json.encode(catalogue))
    return path


@dataclass(frozen=True, kw_only=True)
class _World:
    """A world's table, and where its files go."""

    table: dict[str, Any]
    files: Path
    scale: int

    def mods(self) -> list[dict[str, Any]]:
        return [self.mod(slug, row) for slug, row in self.with_more_builds()]

    def with_more_builds(self) -> list[tuple[str, list[Any]]]:
        """Adds patch builds to the most installed mods until the world has its full number of builds."""
        rows = {slug: [row[0], row[1].split(), *row[2:]] for slug, row in self.table["mods"].items()}
        missing = self.table["builds"] - sum(len(row[1]) for row in rows.values())
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

    def kind(self, slug: str) -> dict[str, Any]:
        """The kind of a mod: the one whose list in the table names it, else the game's first."""
        named = next((kind for kind, slugs in self.table.get("kind", {}).items() if slug in slugs), None)
        kinds: list[dict[str, Any]] = self.table["game"]["kinds"]
        return next((kind for kind in kinds if kind["slug"] == named), kinds[0])

    def mod(self, slug: str, row: list[Any]) -> dict[str, Any]:
        facts, builds, *lines = row
        name, authors, categories, licence, sides, reach, save_effect, installs, _, summary = facts
        by_hand = slug in self.table.get("by_hand", {})
        return {
            "slug": slug,
            "game": self.table["game"]["slug"],
            "name": name,
            "kind": self.kind(slug)["slug"],
            "version_scheme": "semver",
            "summary": summary,
            "description": f"{summary}\n\n{self.table.get('about', {}).get(slug, '')}\n\n"
            f"Made by {' and '.join(authors.split('; '))}.".replace("\n\n\n\n", "\n\n"),
            "authors": authors.split("; "),
            "categories": categories.split(", "),
            "licence": licence,
            "redistribution": "link-only" if licence.startswith("LicenseRef") else "allowed",
            "sides": {"client": _SIDES[sides[0]], "server": _SIDES[sides[1]]},
            "reach": reach,
            "save_effect": save_effect,
            "page": f"/pages/{slug}",
            "links": [{"label": "Questions and answers", "address": f"/pages/{slug}"}],
            "instructions": self.table["by_hand"][slug] if by_hand else "",
            "installs": installs,
            "builds": [self.build(slug, facts, text, number, lines) for number, text in enumerate(builds)],
        }

    def build(self, slug: str, facts: list[Any], text: str, number: int, lines: list[str]) -> dict[str, Any]:
        match = _BUILD.fullmatch(text)
        if match is None:
            raise ValueError(f"{slug}: {text} is not a build")
        name, version = facts[0], match["version"]
        chance = random.Random(f"{SEED}/{slug}/{version}")
        inside = self.contents(slug, name, version, lines, chance, _SIZES[facts[8]])
        file, contents = _archive(f"{slug}-{version}.zip", inside, self.files)
        year, month, day = self.table["first_day"][match["low"]]
        first = datetime(year, month, day, 18, tzinfo=UTC)
        published = first + timedelta(days=number * 16 + chance.randrange(9), minutes=chance.randrange(900))
        hosted = slug not in self.table.get("by_hand", {})
        game, relations = self.table["game"]["name"], [line for line in lines if not line.startswith(_OWN_FILES)]
        return {
            "version": version,
            "channel": match["channel"] or "stable",
            "published": published.isoformat().replace("+00:00", "Z"),
            "game_versions": f"vers:generic/>={match['low']}|<{match['high']}",
            "loaders": [_LOADERS[letter] for letter in match["loaders"]] if self.kind(slug)["slug"] == "mod" else [],
            "loader_versions": None,
            "file": file | {"url": f"/files/{file['name']}" if hosted else None},
            "relations": [made for line in relations if (made := _relation(line, version))],
            "contents": contents,
            "changelog": f"{name} {version} for {game} {match['low']} and newer.\n\n{chance.choice(_NEWS)}",
        }

    def contents(
        self, slug: str, name: str, version: str, lines: list[str], chance: random.Random, sizes: tuple[int, int]
    ) -> dict[str, bytes]:
        """The files of one archive, laid out as its kind wants it, or one folder too deep where the table says so."""
        kind = self.kind(slug)
        total = max(chance.randrange(*sizes) // self.scale // self.table.get("smaller", 1), 1500)
        parts = chance.randrange(2, 6)
        assets = {f"part{i + 1}.bin": chance.randbytes(total // parts) for i in range(parts)}
        if kind["packaging"] == "archive":
            inside = {
                "tidewrack.mod.toml": f'id = "{slug}"\nname = "{name}"\nversion = "{version}"\n'.encode(),
                f"settings/{slug}.toml": _settings(slug, chance).encode(),
                "README.md": f"# {name}\n\nVersion {version}.\n".encode(),
            }
            inside |= {f"assets/{slug}/{part}": data for part, data in assets.items()}
        elif kind["packaging"] == "folder":
            folder = slug.title().replace("-", "")
            manifest = f"<outpost><id>{slug}</id><name>{_xml(name)}</name><version>{version}</version></outpost>\n"
            inside = {
                f"{folder}/outpost.xml": manifest.encode(),
                f"{folder}/Presets/{slug}.xml": f'<preset strength="{chance.randrange(99)}"/>'.encode(),
                f"{folder}/Docs/notes.txt": f"{name} {version}\n".encode(),
            }
            inside |= {f"{folder}/Art/{part}": data for part, data in assets.items()}
        else:
            inside = {}
        for line in lines:
            if line.startswith(_OWN_FILES):
                word, path = line.split(" ", 1)
                whose = f"{name} {version}" if word == "file" else "everybody"
                inside[path] = f"# {path}, by {whose}\n{path}\n".encode() * 8
        if not inside or (kind["packaging"] == "overlay" and total > 40_000):
            inside |= {f"looks/{slug}/{part}": data for part, data in assets.items()}
        deep = slug in self.table.get("too_deep", [])
        return {f"release/{path}" if deep else path: data for path, data in inside.items()}


_NEWS = (
    "Mends a crash while saving.",
    "Quicker on large worlds. Asks for less memory while loading.",
    "New settings, all of them off until somebody turns them on.",
    "Mostly translations, and one thing that was spelled wrong for a year.",
    "Takes back what the last version changed about sound.",
)


def _xml(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")


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


def _archive(file_name: str, inside: dict[str, bytes], files: Path) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """Writes one archive; its file facts and the facts of what is inside."""
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
    parser.add_argument("--world", action="append", choices=WORLDS)
    parser.add_argument("--scale", type=int, default=1)
    given = parser.parse_args()
    make_worlds(given.world or WORLDS, given.folder, scale=given.scale)
