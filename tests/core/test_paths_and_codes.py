"""Hostile paths are refused, path rules choose files, boarding codes find typing mistakes."""

import random
from pathlib import PurePosixPath, PureWindowsPath

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from true_convoy.core.codes import ALPHABET, CodeError, check_character, make_code, read_code, show_code
from true_convoy.core.errors import UnsafePath
from true_convoy.core.paths import rules_keep, safe_path

HOSTILE = [
    *("", "/etc/passwd", "../up", "a/../../up", "a/..", ".", "a//b", "a/./b", "a/", "C:/x", "c:x", "\\\\host\\x"),
    *("a\\..\\b", "con", "a/NUL.txt", "lpt1.cfg", "COM¹", "a./b", "a /b", " a", "a/b.", "a\x00b", "a\nb", "a\u202eb"),
    *(".convoy/rig.json", ".CONVOY/x", "a:b", "a|b", "x" * 256, "d/" * 600, "a\ud800b"),
]


@pytest.mark.parametrize("path", HOSTILE)
def test_hostile_paths_are_refused_with_a_sentence(path):
    with pytest.raises(UnsafePath, match=r"\.$"):
        safe_path(path)


@pytest.mark.parametrize("path", ["mods/a.zip", "a", "config/Größe.toml", "a/b-c_d (1)/e.f", "console/x", ".hidden/x"])
def test_ordinary_paths_are_kept_as_they_are(path):
    assert safe_path(path) == path


@given(st.text(alphabet=st.sampled_from("ab./\\: C\x00\u202e~"), max_size=12))
def test_a_safe_path_stays_inside_on_every_system(path):
    try:
        safe_path(path)
    except UnsafePath:
        return
    for flavour in (PurePosixPath, PureWindowsPath):
        parts = flavour(path)
        assert not parts.is_absolute() and not parts.drive and ".." not in parts.parts and parts.parts


@pytest.mark.parametrize(
    ("keep", "drop", "kept"),
    [
        ((), (), ["a.txt", "docs/a.md", "docs/deep/b.md", "src/x1.c"]),
        ((), ("docs/**",), ["a.txt", "src/x1.c"]),
        ((), ("docs/",), ["a.txt", "src/x1.c"]),
        ((), ("docs/*",), ["a.txt", "docs/deep/b.md", "src/x1.c"]),
        (("**/*.md",), (), ["docs/a.md", "docs/deep/b.md"]),
        (("docs/**", "*.txt"), ("**/b.md",), ["a.txt", "docs/a.md"]),
        (("src/x[0-9].?",), (), ["src/x1.c"]),
    ],
)
def test_path_rules(keep, drop, kept):
    paths = ["a.txt", "docs/a.md", "docs/deep/b.md", "src/x1.c"]
    assert [path for path in paths if rules_keep(path, keep, drop)] == kept


bodies = st.text(alphabet=ALPHABET, min_size=9, max_size=9)


@given(bodies, st.integers(0, 9), st.sampled_from(ALPHABET))
def test_one_wrong_character_is_found(body, position, other):
    code = body + check_character(body)
    assume(code[position] != other)
    with pytest.raises(CodeError):
        read_code(code[:position] + other + code[position + 1 :])


@given(bodies, st.integers(0, 8))
def test_two_swapped_characters_are_found(body, i):
    code = body + check_character(body)
    assume(code[i] != code[i + 1])
    with pytest.raises(CodeError):
        read_code(code[:i] + code[i + 1] + code[i] + code[i + 2 :])


def test_codes_are_read_however_they_were_typed():
    code = make_code(random.Random(7).choice)
    assert len(code) == 11 and code[5] == "-"
    for typed in (code, code.lower(), code.replace("-", " "), f"  {code}\n", code.replace("-", "")):
        assert read_code(typed) == code
    assert show_code(code.replace("-", "")) == code


@pytest.mark.parametrize("text", ["", "K7MPR", "O0I1L-AAAAA", "K7MPR-3XWTC-22", "<script>"])
def test_what_is_no_code_is_refused_with_a_sentence(text):
    with pytest.raises(CodeError, match=r"\.$"):
        read_code(text)
