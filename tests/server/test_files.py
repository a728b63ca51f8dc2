"""Bringing files: in pieces, after interruptions, and whatever hostile archives may be."""

import gzip
import hashlib
import io
import json
import struct
import tarfile
import zipfile
import zlib

import py7zr
import pytest
from PIL import Image

from tests.server.conftest import edit, publish
from true_convoy.server.files import archives
from true_convoy.server.files.actions import clean_up, part_of
from true_convoy.server.files.archives import BadArchive, look_into, manifest_facts
from true_convoy.server.files.models import Blob, Upload
from true_convoy.server.files.tasks import look_into_upload

MANIFEST = b'id = "sea-wall"\nname = "Sea Wall"\nversion = "1.2.0"\n'

# Where the catalogue is asked.
KNOWN = "mods"


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def tarred(files: dict[str, bytes], mode: str = "w:gz") -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode=mode) as archive:
        for name, data in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
    return out.getvalue()


def sevened(files: dict[str, bytes], password: str | None = None) -> bytes:
    out = io.BytesIO()
    with py7zr.SevenZipFile(out, "w", password=password) as archive:
        for name, data in files.items():
            archive.writestr(data, name)
    return out.getvalue()


def linked() -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as archive:
        info = tarfile.TarInfo("a")
        info.type, info.linkname = tarfile.SYMTYPE, "/etc/passwd"
        archive.addfile(info)
    return out.getvalue()


def zip_link() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        info = zipfile.ZipInfo("a")
        info.external_attr = 0o120777 << 16
        archive.writestr(info, "/etc/passwd")
    return out.getvalue()


def locked_zip() -> bytes:
    plain = bytearray(zipped({"a": b"x"}))
    plain[6] |= 1
    at = plain.rindex(b"PK\x01\x02")
    plain[at + 8] |= 1
    return bytes(plain)


def lying_zip() -> bytes:
    """Says it holds 10 bytes, and unpacks to twenty million."""
    data = b"\0" * 20_000_000
    packed = zlib.compressobj(9, zlib.DEFLATED, -15)
    body = packed.compress(data) + packed.flush()
    crc, name = zlib.crc32(data), b"a"
    local = struct.pack("<IHHHHHIIIHH", 0x04034B50, 20, 0, 8, 0, 33, crc, len(body), 10, 1, 0) + name + body
    central = struct.pack(
        "<IHHHHHHIIIHHHHHII", 0x02014B50, 20, 20, 0, 8, 0, 33, crc, len(body), 10, 1, 0, 0, 0, 0, 0, 0
    )
    end = struct.pack("<IHHHHIIH", 0x06054B50, 0, 0, 1, 1, len(central) + 1, len(local), 0)
    return local + central + name + end


@pytest.mark.parametrize(
    "pack_up", [zipped, tarred, lambda files: tarred(files, "w"), lambda f: tarred(f, "w:xz"), sevened]
)
def test_all_kinds_of_archives_are_looked_into(tmp_path, pack_up):
    path, big = tmp_path / "x", bytes(range(256)) * 2000
    path.write_bytes(pack_up({"hull/tidewrack.mod.toml": MANIFEST, "hull/big.bin": big}))
    found = look_into(path, frozenset({"tidewrack.mod.toml"}))
    assert {item.path: (item.size, item.sha256) for item in found.contents} == {
        "hull/tidewrack.mod.toml": (len(MANIFEST), hashlib.sha256(MANIFEST).hexdigest()),
        "hull/big.bin": (len(big), hashlib.sha256(big).hexdigest()),
    }
    assert found.manifests == {"hull/tidewrack.mod.toml": MANIFEST}


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (zipped({"a": b"\0" * 60_000_000}), "far more than its size"),
        (gzip.compress(tarred({"a": b"\0" * 60_000_000}, "w")), "far more than its size"),
        (sevened({"a": b"\0" * 60_000_000}), "far more than its size"),
        (lying_zip(), "broken or cut off|far more than its size"),
        (zipped({"a": b"x" * 500})[:60], "broken or cut off"),
        (tarred({"a": bytes(range(256)) * 900})[:400], "broken or cut off"),
        (sevened({"a": b"x" * 500})[:40], "broken or cut off"),
        (locked_zip(), "password"),
        (sevened({"a": b"x"}, "secret"), "password"),
        (linked(), "link or a device"),
        (zip_link(), "link or a device"),
        (zipped({"/".join("d" * 40): b"x"}), "nested far deeper"),
        (b"just some text that is no archive at all", "not a zip, tar or 7z"),
        (b"PK", "broken or cut off"),
        (b"", "not a zip, tar or 7z"),
    ],
)
def test_hostile_and_broken_archives_are_refused_with_a_sentence(tmp_path, data, why):
    path = tmp_path / "x"
    path.write_bytes(data)
    with pytest.raises(BadArchive, match=why) as refused:
        look_into(path, frozenset())
    assert str(refused.value).endswith(".")


def test_too_many_files_and_doubles_are_refused(tmp_path, monkeypatch):
    monkeypatch.setattr(archives, "MAX_FILES", 5)
    path = tmp_path / "x"
    for pack_up in (zipped, tarred, sevened):
        path.write_bytes(pack_up({str(i): b"" for i in range(6)}))
        with pytest.raises(BadArchive, match="more than 5 files"):
            look_into(path, frozenset())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("a", "1")
        with pytest.warns(UserWarning, match="Duplicate name"):
            archive.writestr("a", "2")
    path.write_bytes(out.getvalue())
    with pytest.raises(BadArchive, match="twice"):
        look_into(path, frozenset())


@pytest.mark.parametrize(
    ("name", "data", "facts"),
    [
        ("a.toml", MANIFEST, {"id": "sea-wall", "name": "Sea Wall", "version": "1.2.0"}),
        ("a.toml", b'[mod]\nid = "x"\n', {"id": "x"}),
        ("a.json", b'{"id": "x", "version": 3}', {"id": "x", "version": "3"}),
        (
            "a.xml",
            b"<m id='x'><name> Wall </name><version>2</version></m>",
            {"id": "x", "name": "Wall", "version": "2"},
        ),
        ("a.ini", b"name = Wall\nversion = 2\n", {"name": "Wall", "version": "2"}),
        ("a.txt", b"[mod]\nid = x\n", {"id": "x"}),
        ("a.xml", b'<!DOCTYPE m [<!ENTITY e SYSTEM "file:///etc/passwd">]><m><name>&e;</name></m>', {}),
        ("a.json", b"[" * 100_000, {}),
        ("a.toml", b"\xff\xfe", {}),
        ("a.toml", b'name = "a\\u202eb\\u0000"', {"name": "ab"}),
    ],
)
def test_manifests_state_what_they_can_and_harm_nothing(name, data, facts):
    assert manifest_facts(name, data) == facts


@pytest.fixture
def uploads(settings, tmp_path, people, pack):
    """Sends a file as the owner and has it looked into; gives what it was found to be."""
    settings.UPLOADS = tmp_path / "uploads"
    settings.STORAGES = settings.STORAGES | {
        "blobs": {"BACKEND": "django.core.files.storage.FileSystemStorage", "OPTIONS": {"location": tmp_path / "blobs"}}
    }
    settings.PUBLIC_ADDRESS = "http://convoy.example"
    owner = people["owner"]

    def piece(upload: str, at: int, data: bytes):
        path = f"/api/uploads/{upload}?at={at}"
        answer = owner.client.put(path, data, content_type="application/octet-stream")
        return answer.status_code, json.loads(answer.content)

    def send(name: str, data: bytes, game: str = "tidewrack", size: int = 50_000):
        begun = owner("POST", "uploads", {"game": game, "name": name, "size": len(data)})[1]
        for at in range(0, len(data), size):
            status, answer = piece(begun["id"], at, data[at : at + size])
            assert status == 200, answer
        look_into_upload(begun["id"])
        return owner("GET", f"uploads/{begun['id']}")[1]

    send.piece = piece
    return send


FACTS = {"name": "Sea Wall", "version": "1.2.0", "page": "https://x.example/sea-wall", "game_versions": ["2.4.1"]}


def test_a_known_file_is_recognised_and_an_unknown_one_judged(uploads, world):
    name = "galley-1.3.0.zip"
    known = uploads(name, (world / "files" / name).read_bytes())
    assert known["known"] == {"mod": "galley", "name": "Galley", "version": "1.3.0"} and known["proposal"] is None
    fresh = uploads("sea-wall.zip", zipped({"tidewrack.mod.toml": MANIFEST, "a.bin": b"abc"}))
    assert (fresh["state"], fresh["files"], fresh["unpacked"]) == ("judged", 2, len(MANIFEST) + 3)
    made = fresh["proposal"]
    assert (made["name"], made["version"], made["kind"], made["target"]) == ("Sea Wall", "1.2.0", "mod", "mods")
    bad = uploads("evil.zip", zipped({"../../outside": b"x"}))
    assert bad["state"] == "refused" and "leads out of the folder" in bad["message"]
    assert not part_of(Upload.objects.get(pk=bad["id"])).exists()


def test_an_upload_goes_on_where_it_stopped(uploads, people):
    data = zipped({"tidewrack.mod.toml": MANIFEST})
    begun = people["owner"]("POST", "uploads", {"game": "tidewrack", "name": "a/b\\c.zip", "size": len(data)})[1]
    assert begun["name"] == "c.zip"
    assert uploads.piece(begun["id"], 0, data[:40])[1]["received"] == 40
    status, refused = uploads.piece(begun["id"], 0, data[:40])
    assert (status, refused["facts"]["received"]) == (409, 40)
    assert uploads.piece(begun["id"], 40, data[40:] + b"more")[0] == 413
    assert uploads.piece(begun["id"], 40, data[40:])[1]["state"] == "looking"
    assert people["member"]("GET", f"uploads/{begun['id']}")[0] == 404, "only its owner sees it"
    assert people["owner"]("DELETE", f"uploads/{begun['id']}")[0] == 200 and not Upload.objects.exists()


@pytest.mark.parametrize(
    ("body", "why"),
    [
        ({"name": "a.zip", "size": 0}, "must not be empty"),
        ({"name": "a.zip", "size": 1 << 40}, "up to 4 GB"),
        ({"name": "con", "size": 5}, "device name"),
        ({"name": "a\u202ezip.exe", "size": 5}, "invisible or direction-changing"),
        ({"name": "a.zip", "size": 5, "game": "none"}, "not in the catalogue"),
    ],
)
def test_what_cannot_be_taken_is_said_before_it_is_sent(people, body, why):
    status, answer = people["owner"]("POST", "uploads", {"game": "tidewrack"} | body)
    assert status >= 400 and why in answer["detail"]


def test_a_free_file_is_kept_handed_out_and_released(uploads, people, pack):
    data = zipped({"tidewrack.mod.toml": MANIFEST, "a.bin": bytes(range(256))})
    sent = uploads("sea-wall.zip", data)
    body = FACTS | {"upload": sent["id"], "redistribution": "allowed", "licence": "MIT"}
    status, made = people["owner"]("POST", f"packs/{pack}/own-mods", body)
    assert status == 201, made
    preview = people["owner"]("POST", f"packs/{pack}/preview-add", {"mods": [made["mod"]]})[1]
    assert edit(people["owner"], pack, preview["edit"])[0] == 201
    status, answer = publish(people["owner"], pack, "1.0.0")
    assert status == 201, answer
    (entry,) = people["owner"]("GET", f"packs/{pack}/releases/1.0.0/document")[1]["entries"]
    assert entry["file"]["url"] == f"http://convoy.example/files/{sent['sha256']}/sea-wall.zip"
    assert Blob.objects.get().size == len(data) and not Upload.objects.exists()


def test_a_kept_file_is_handed_out_whole_and_in_part(uploads, people, pack):
    data = zipped({"tidewrack.mod.toml": MANIFEST, "a.bin": bytes(range(256))})
    sent = uploads("sea-wall.zip", data)
    people["owner"]("POST", f"packs/{pack}/own-mods", FACTS | {"upload": sent["id"], "redistribution": "allowed"})
    client, path = people["nobody"].client, f"/files/{sent['sha256']}/sea-wall.zip"
    for asked, expected, status in (
        (None, data, 200),
        ("bytes=10-19", data[10:20], 206),
        ("bytes=10-", data[10:], 206),
    ):
        answer = client.get(path, headers={"Range": asked} if asked else {})
        with pytest.warns(Warning, match="asynchronous iterators"):
            assert b"".join(answer) == expected
        assert (answer.status_code, answer["Content-Length"]) == (status, str(len(expected)))
    assert answer["Content-Range"] == f"bytes 10-{len(data) - 1}/{len(data)}"
    assert client.get(path, headers={"Range": f"bytes={len(data)}-"}).status_code == 416
    assert client.get(f"/files/{'0' * 64}/x").status_code == 404


def test_a_file_that_may_only_be_linked_to_is_never_kept(uploads, people, pack):
    sent = uploads("sea-wall.zip", zipped({"tidewrack.mod.toml": MANIFEST}))
    body = FACTS | {"upload": sent["id"], "instructions": "Press the third button."}
    assert people["owner"]("POST", f"packs/{pack}/own-mods", body)[0] == 201
    assert not Blob.objects.exists() and not Upload.objects.exists()
    found = people["owner"]("GET", f"{KNOWN}/tidewrack/sea-wall")[1]
    assert found["builds"][0]["by_hand"] and found["builds"][0]["sha256"] == sent["sha256"]
    assert found["instructions"] == "Press the third button." and found["page"] == FACTS["page"]


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({}, "send one, or say its name"),
        ({"file_name": "a.zip", "page": ""}, "say on which page"),
        ({"file_name": "a.zip", "page": "javascript:alert(1)"}, "begins with http"),
        ({"file_name": "a.zip", "kind": "spell"}, "no such kind"),
        ({"upload": "x"}, "has not arrived"),
        ({"file_name": "../a:zip"}, "which some systems read"),
        ({"file_name": "a.zip", "wrap": "../.."}, "leads out of the folder"),
        ({"file_name": "a.zip", "sha256": "abc"}, "cannot be read"),
    ],
)
def test_what_is_missing_of_an_own_mod_is_said(people, pack, change, why):
    status, answer = people["owner"]("POST", f"packs/{pack}/own-mods", FACTS | change)
    assert status >= 400 and why in answer["detail"], answer


def drawn(kind: str, size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, kind)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP"])
def test_a_picture_is_drawn_anew_and_shown(uploads, people, kind):
    client = people["owner"].client
    taken = client.post("/api/pictures", drawn(kind, (300, 90)) + b"<script>", content_type="application/octet-stream")
    shown = people["nobody"].client.get(f"/pictures/{taken.json()['picture']}")
    assert taken.status_code == 201 and shown["Content-Type"] == "image/png"
    with Image.open(io.BytesIO(shown.content)) as image:
        assert image.size == (256, 256)
    assert b"<script>" not in shown.content
    for name in ("..", "0" * 64, "x"):
        assert people["nobody"].client.get(f"/pictures/{name}").status_code == 404


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"no picture", "not a PNG"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"/>', "not a PNG"),
        (b"x" * (5 * 1024**2 + 1), "up to 5 MB"),
        (drawn("PNG", (8000, 6000)), "far more dots"),
        (drawn("PNG", (30, 30))[:60], "broken"),
    ],
)
def test_what_is_no_picture_is_refused(uploads, people, data, why):
    answer = people["owner"].client.post("/api/pictures", data, content_type="application/octet-stream")
    assert answer.status_code >= 400 and why in answer.json()["detail"]


def test_a_file_sent_again_goes_on_where_it_stopped(uploads, people):
    data = zipped({"tidewrack.mod.toml": MANIFEST})
    body = {"game": "tidewrack", "name": "c.zip", "size": len(data), "mark": "m" * 64}
    begun = people["owner"]("POST", "uploads", body)[1]
    uploads.piece(begun["id"], 0, data[:40])
    again = people["owner"]("POST", "uploads", body)[1]
    assert (again["id"], again["received"]) == (begun["id"], 40)
    other = people["owner"]("POST", "uploads", body | {"mark": "n" * 64})[1]
    assert (other["received"], other["id"] == begun["id"]) == (0, False)
    assert people["curator"]("POST", "uploads", body)[1]["received"] == 0


def test_uploads_that_nobody_went_on_with_are_forgotten(uploads, people):
    people["owner"]("POST", "uploads", {"game": "tidewrack", "name": "a.zip", "size": 5})
    Upload.objects.update(created="2020-01-01T00:00:00Z")
    clean_up()
    assert not Upload.objects.exists()
