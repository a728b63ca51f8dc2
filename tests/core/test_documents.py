"""Documents: what is read, refused with its JSON path, and written again without losing anything."""

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.conftest import ROOT
from true_convoy.core import documents
from true_convoy.core.errors import DocumentError
from true_convoy.core.model import Catalogue, Inventory, Pack, Release

EXAMPLES = ROOT / "docs" / "formats" / "examples"
KINDS = {"catalogue": Catalogue, "pack": Pack, "release": Release, "inventory": Inventory}


def example(kind: str) -> dict:
    return json.loads((EXAMPLES / f"example.{kind}.json").read_text())


def changed(kind: str, path: str, value: object) -> bytes:
    """The example with one place changed; ``...`` removes it. The path is like ``mods.0.slug``."""
    document = example(kind)
    *way, last = [int(part) if part.isdigit() else part for part in path.split(".")]
    place = document
    for part in way:
        place = place[part]
    if value is ...:
        del place[last]
    else:
        place[last] = value
    return json.dumps(document).encode()


@pytest.mark.parametrize("kind", KINDS)
def test_the_schemas_in_docs_are_current_and_hold_for_the_examples(kind):
    schema = json.loads((ROOT / "docs" / "formats" / f"{kind}.schema.json").read_text())
    assert schema == json.loads(json.dumps(documents.schemas()[kind]))
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(example(kind), schema, cls=jsonschema.Draft202012Validator)


@pytest.mark.parametrize("kind", KINDS)
def test_every_shipped_example_is_read_and_written_the_same(kind):
    data = (EXAMPLES / f"example.{kind}.json").read_bytes()
    document = documents.read(KINDS[kind], data)
    again = documents.read(KINDS[kind], documents.write(document.value, document))
    assert again.value == document.value and document.notes == ()


BROKEN = [
    ("pack", "format", "something/else", "$.format"),
    ("pack", "format", ..., "$.format"),
    ("pack", "format_version", 2, "$.format_version"),
    ("pack", "format_version", True, "$.format_version"),
    ("pack", "game_version", ..., "$.game_version"),
    ("pack", "entries", ..., "$.entries"),
    ("pack", "entries.0.mod", 7, "$.entries[0].mod"),
    ("pack", "entries.0.enabled", "yes", "$.entries[0].enabled"),
    ("pack", "entries.1.mod", "better-buoys", "$.entries[1].mod"),
    ("pack", "channel_floor", "gamma", "$.channel_floor"),
    ("pack", "files.0.path", "../up.png", "$.files[0].path"),
    ("pack", "settings.0.file", "/etc/passwd", "$.settings[0].file"),
    ("catalogue", "mods.0.slug", ..., "$.mods[0].slug"),
    ("catalogue", "mods.0.builds.0.relations.0.kind", "adores", "$.mods[0].builds[0].relations[0].kind"),
    ("catalogue", "mods.0.builds.0.game_versions", ">=2", "$.mods[0].builds[0].game_versions"),
    ("catalogue", "mods.0.builds.0.relations.0.versions", "vers:x/1", "$.mods[0].builds[0].relations[0].versions"),
    ("catalogue", "mods.0.builds.0.file.sha256", "short", "$.mods[0].builds[0].file.sha256"),
    ("catalogue", "mods.0.builds.0.file.size", -1, "$.mods[0].builds[0].file.size"),
    ("release", "entries.0.places.0.target", "a/../../b", "$.entries[0].places[0].target"),
    ("inventory", "files.0.size", "big", "$.files[0].size"),
]


@pytest.mark.parametrize(("kind", "path", "value", "named"), BROKEN)
def test_what_is_wrong_is_named_by_its_path(kind, path, value, named):
    with pytest.raises(DocumentError) as refused:
        documents.read(KINDS[kind], changed(kind, path, value))
    assert refused.value.path == named


@pytest.mark.parametrize("data", [b"", b"{", b"[]", b"null", b"\xff\xfe", b"[" * 100_000])
def test_what_is_no_document_is_refused(data):
    with pytest.raises(DocumentError) as refused:
        documents.read(Pack, data)
    assert refused.value.path == "$"


_keys = st.sampled_from(["format", "mods", "slug"])
_values = st.recursive(
    st.none() | st.integers() | st.text(max_size=5), lambda x: st.lists(x) | st.dictionaries(_keys, x), max_leaves=8
)


@given(st.binary(max_size=60) | _values.map(lambda value: json.dumps(value).encode()))
def test_nothing_makes_the_reader_fail_without_a_sentence(data):
    with pytest.raises(DocumentError):
        documents.read(Catalogue, data)


def test_unknown_keys_are_noted_and_kept_where_they_were():
    raw = example("pack")
    raw["colour"] = "teal"
    raw["entries"][1]["mood"] = {"calm": True}
    document = documents.read(Pack, json.dumps(raw))
    assert [note.split(":")[0] for note in document.notes] == ["$.entries[1].mood", "$.colour"]
    turned = replace(document.value, entries=document.value.entries[::-1], name="Another name")
    written = json.loads(documents.write(turned, document))
    assert written["colour"] == "teal" and written["name"] == "Another name"
    assert written["entries"][0]["mod"] == raw["entries"][1]["mod"]
    assert written["entries"][0]["mood"] == {"calm": True} and "mood" not in written["entries"][1]


def test_examples_are_all_there():
    assert sorted(path.name for path in Path(EXAMPLES).iterdir()) == sorted(f"example.{kind}.json" for kind in KINDS)
