"""A catalogue of 50,000 mods and 1,000,000 builds in PostgreSQL, in a database of its own that is made once."""

import os
import random
from datetime import UTC, datetime, timedelta
from typing import Any

import msgspec
import psycopg
from psycopg import sql
from psycopg.types.json import Jsonb

DATABASE = "convoy_large_words"
MODS, BUILDS = 50_000, 20


def use() -> None:
    """Points Django at the large database, making and filling it where that has not been done."""
    host = os.environ["CONVOY_DB_HOST"]
    with psycopg.connect(host=host, user="convoy", dbname="postgres", autocommit=True) as connection:
        there = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [DATABASE]).fetchone()
        if not there:
            connection.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(DATABASE)))
    os.environ["CONVOY_DB_NAME"] = DATABASE
    import django
    from django.core.management import call_command
    from django.db import connection

    django.setup()
    if connection.settings_dict["NAME"] != DATABASE:
        raise RuntimeError("Another database is in use already. Nothing was changed.")
    call_command("migrate", verbosity=0)
    from true_convoy.server.catalogue.models import Build, Game

    if Build.objects.count() < MODS * BUILDS:
        Game.objects.all().delete()
        _fill()


def _fill() -> None:
    from django.db import connection

    from true_convoy.core.model import Build as BuildValue
    from true_convoy.core.model import Game as GameValue
    from true_convoy.core.recognise import folded
    from true_convoy.server.catalogue.grounds import every_ground, grounds_of
    from true_convoy.server.catalogue.models import Game

    versions = [{"label": f"2.{minor}", "channel": "stable"} for minor in range(5)]
    loaders = [{"slug": slug, "name": slug.title(), "versions": []} for slug in ("keel", "outrigger")]
    kinds = [{"slug": "mod", "name": "Mod", "folder": "mods"}, {"slug": "looks", "name": "Looks", "folder": "looks"}]
    document = {"slug": "g", "name": "G", "versions": versions, "loaders": loaders, "kinds": kinds}
    game = Game.objects.create(slug="g", name="G", document=document)
    value = msgspec.convert(document, GameValue)
    every = every_ground(value)
    chance = random.Random(11)
    connection.ensure_connection()
    raw = connection.connection
    known: dict[str, list[str]] = {}
    with raw.cursor() as cursor:
        columns = "id, game_id, slug, name, summary, people, categories, kind, installs, document, digest"
        more = "keys, grounds, changed, first, newest, stated_reach"
        with cursor.copy(f"COPY catalogue_mod ({columns}, {more}) FROM STDIN") as copy:
            for number in range(MODS):
                facts, row = _mod(chance, number)
                builds = [_build(random.Random(f"{number}/{index}"), number, index) for index in range(BUILDS)]
                shape = repr([(b["game_versions"], b["loaders"]) for b in builds])
                if shape not in known:
                    known[shape] = grounds_of(msgspec.convert(builds, list[BuildValue]), value, every)
                keys = sorted({folded(facts["name"]), folded(facts["slug"])})
                times = [datetime(2024, 1, 1, tzinfo=UTC) + timedelta(days=chance.randrange(900)) for _ in range(3)]
                copy.write_row((number + 1, game.pk, *row, Jsonb(facts), "", keys, known[shape], *sorted(times), ""))
        with cursor.copy(
            "COPY catalogue_build (mod_id, version, sha256, bundles, bridges, requires, document) FROM STDIN"
        ) as copy:
            for number in range(MODS):
                for index in range(BUILDS):
                    build = _build(random.Random(f"{number}/{index}"), number, index)
                    needed = sorted({relation["mod"] for relation in build["relations"]})
                    facts = (build["version"], build["file"]["sha256"], [], [], needed, Jsonb(build))
                    copy.write_row((number + 1, *facts))
        cursor.execute("SELECT setval('catalogue_mod_id_seq', %s)", [MODS])
        cursor.execute("ANALYZE")


ADJECTIVES = [
    "better",
    "drowned",
    "quiet",
    "wide",
    "brass",
    "deep",
    "salt",
    "steady",
    "plain",
    "painted",
    "northern",
    "hollow",
    "gentle",
    "silent",
    "broken",
    "narrow",
    "amber",
    "winter",
    "folded",
    "distant",
    "borrowed",
    "hidden",
    "lower",
    "upper",
    "crooked",
    "sudden",
    "patient",
    "careful",
    "restless",
    "faded",
]
NOUNS = [
    "buoys",
    "harbour",
    "lantern",
    "chart",
    "rope",
    "galley",
    "anchor",
    "ledger",
    "compass",
    "reef",
    "tide",
    "hull",
    "signal",
    "bell",
    "crate",
    "garden",
    "weather",
    "motor",
    "gull",
    "kelp",
    "diving",
    "wreck",
    "sextant",
    "winch",
    "pump",
    "cellar",
    "market",
    "bridge",
    "tower",
    "orchard",
    "library",
    "canvas",
    "horn",
    "paint",
    "shader",
]
CATEGORIES = [
    "library",
    "boats",
    "navigation",
    "salvage",
    "weather",
    "looks",
    "sound",
    "food",
    "interface",
    "world",
    "trade",
    "creatures",
    "server",
]
LICENCES = ["MIT", "MIT", "Apache-2.0", "GPL-3.0-only", "CC-BY-4.0", "LicenseRef-Ask-First"]


SYLLABLES = [
    "ka",
    "to",
    "ri",
    "mel",
    "dar",
    "vin",
    "so",
    "ule",
    "pra",
    "nek",
    "bo",
    "sti",
    "far",
    "lo",
    "wen",
    "gra",
    "ti",
    "hu",
    "mar",
    "zel",
    "pin",
    "dor",
    "ax",
    "ber",
]


def _word(number: int) -> str:
    """An invented word; there are some fourteen thousand, so that a few mods share each, as in real catalogues."""
    picked = (number * 7919) % (len(SYLLABLES) ** 3)
    parts = [SYLLABLES[picked // len(SYLLABLES) ** place % len(SYLLABLES)] for place in range(3)]
    return "".join(parts).title()


def _mod(chance: random.Random, number: int) -> tuple[dict[str, Any], tuple[Any, ...]]:
    """A mod's document and its plain columns; names are made of a few hundred words, as real ones are."""
    name = f"{chance.choice(ADJECTIVES)} {chance.choice(NOUNS)} {chance.choice(NOUNS)}".title() + f" {_word(number)}"
    summary = f"{chance.choice(ADJECTIVES).title()} {chance.choice(NOUNS)} for every {chance.choice(NOUNS)}."
    categories = sorted(set(chance.choices(CATEGORIES, k=2)))
    kind = "mod" if number % 9 else "looks"
    sides = chance.choice([("required", "required"), ("required", "unsupported"), ("unsupported", "required")])
    if number < 1000:
        # Everybody's libraries are on both sides.
        sides = ("required", "required")
    people = f"Author {chance.randrange(4000)}"
    facts = {
        **{"slug": f"m{number}", "game": "g", "name": name, "summary": summary, "kind": kind, "authors": [people]},
        **{"categories": categories, "licence": chance.choice(LICENCES), "version_scheme": "semver"},
        **{"sides": dict(zip(("client", "server"), sides, strict=True)), "redistribution": "allowed"},
        "reach": chance.choice(["shared", "own", "progress"]),
    }
    return facts, (f"m{number}", name, summary, people, categories, kind, chance.randrange(1 << 19))


def _build(chance: random.Random, number: int, index: int) -> dict[str, Any]:
    """A build that needs two or three of the eight hundred libraries, or, being one, some before it."""
    version, digest = f"{index // 5 + 1}.{index % 5}.0", f"{number:032x}{index:032x}"
    pool, low = min(number, 800), f"vers:semver/>={index // 10 + 1}.0"
    relations = [
        {"kind": "requires", "mod": f"m{(number * 31 + step * 97) % pool}", "versions": low}
        for step in range(3 if number >= 800 else 1)
        if pool
    ]
    return {
        "version": version,
        "published": "2026-05-03T00:00:00Z",
        "game_versions": f"vers:generic/>=2.{index // 8}",
        "loaders": ["keel"] if number % 5 or number < 1000 else ["keel", "outrigger"],
        "file": {"name": f"m{number}-{version}.zip", "size": chance.randrange(1 << 22), "sha256": digest, "url": "/f"},
        "relations": relations,
    }
