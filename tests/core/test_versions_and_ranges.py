"""Version order and ranges: tables of cases from SemVer and docs/formats, and properties of a total order."""

from datetime import UTC, datetime
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_convoy.core.errors import RangeError
from true_convoy.core.ranges import in_range, in_words, parse_range
from true_convoy.core.versions import Scheme, build_order, guess_scheme, semver_numbers, sort_key

SEMVER_ASCENDING = [
    *("not a version", "0.9", "1.0.0-alpha", "1.0.0-alpha.1", "1.0.0-alpha.beta", "1.0.0-beta", "1.0.0-beta.2"),
    *("1.0.0-beta.11", "1.0.0-rc.1", "1", "1.0.1", "1.4", "1.10.0", "2.0.0", "2.0.0.1", "99999999999999999999.0.0"),
]
GENERIC_ASCENDING = [
    *("1.0alpha1", "1.0-alpha2", "1.0-beta", "1.0pre3", "1.0_rc1", "1.0rc10", "1.0", "1.0-a", "1.0b"),
    *("1.0.0", "1.0.1", "1.2", "1.10", "2024.1", "99999999999999999999"),
]
versions = st.text(alphabet="0129.-_+abrcv ", min_size=1, max_size=12) | st.sampled_from(
    SEMVER_ASCENDING + GENERIC_ASCENDING
)


@pytest.mark.parametrize(
    ("scheme", "ascending"), [(Scheme.SEMVER, SEMVER_ASCENDING), (Scheme.GENERIC, GENERIC_ASCENDING)]
)
def test_versions_ascend(scheme, ascending):
    for low, high in pairwise(ascending):
        assert sort_key(scheme, low) < sort_key(scheme, high), (low, high)


@pytest.mark.parametrize("same", [("1.4", "1.4.0"), ("1", "1.0.0"), ("1.0.0+a", "1.0.0+b"), ("v1.2", "1.2.0")])
def test_missing_parts_and_build_metadata_do_not_count_in_semver(same):
    assert sort_key(Scheme.SEMVER, same[0]) == sort_key(Scheme.SEMVER, same[1])


@given(st.sampled_from(Scheme), versions, versions, versions)
def test_either_order_is_total_and_transitive(scheme, a, b, c):
    a, b, c = sorted((a, b, c), key=lambda text: sort_key(scheme, text))
    assert sort_key(scheme, a) <= sort_key(scheme, b) <= sort_key(scheme, c)
    assert sort_key(scheme, a) <= sort_key(scheme, c)


def test_equal_keys_fall_back_to_time_and_text():
    early, late = datetime(2026, 1, 1, tzinfo=UTC), datetime(2026, 2, 1, tzinfo=UTC)
    order = [("1.0+b", None), ("1.0+b", early), ("1.0+a", late), ("1.0+b", late)]
    keys = [build_order(Scheme.SEMVER, text, time) for text, time in order]
    assert keys == sorted(keys) and len(set(keys)) == 4


RANGE_CASES = [
    ("vers:semver/*", ["0.1", "9"], []),
    ("vers:semver/>=1.2.0|<2.0.0", ["1.2", "1.9.9", "2.0.0-rc.1"], ["1.1.9", "2", "3"]),
    ("vers:semver/1.5.0", ["1.5"], ["1.5.1"]),
    ("vers:semver/=1.5.0|>=2", ["1.5", "2", "7"], ["1.6"]),
    ("vers:semver/!=1.5.0", ["1.4", "1.6"], ["1.5.0"]),
    ("vers:semver/>1|!=1.5|<2", ["1.1", "1.6"], ["1", "1.5", "2"]),
    ("vers:semver/<1|>=3|<4", ["0.9", "3.5"], ["1", "2", "4"]),
    ("vers:semver/>=1|>=2", ["1.5", "2"], ["0.9"]),
    ("vers:semver/<1|<2", ["0.5", "1.5"], ["2"]),
    ("vers:generic/>=2.4|<2.5", ["2.4", "2.4.1"], ["2.3.9", "2.5"]),
    ("vers:generic/<=1.0%2B1", ["1.0"], ["1.0.2"]),
]


@pytest.mark.parametrize(("text", "inside", "outside"), RANGE_CASES)
def test_ranges_hold_what_they_say(text, inside, outside):
    assert [v for v in inside if not in_range(text, v)] == []
    assert [v for v in outside if in_range(text, v)] == []


@given(versions, versions, versions)
def test_a_range_is_exactly_what_lies_between_its_bounds(low, high, version):
    key = sort_key(Scheme.GENERIC, version)
    body = [text.replace(" ", "") or "0" for text in (low, high)]
    a, b = sorted(body, key=lambda text: sort_key(Scheme.GENERIC, text))
    between = sort_key(Scheme.GENERIC, a) <= key < sort_key(Scheme.GENERIC, b)
    quoted = [text.replace("+", "%2B") for text in (a, b)]
    assert in_range(f"vers:generic/>={quoted[0]}|<{quoted[1]}", version) == between


@pytest.mark.parametrize(
    "text", ["", "1.0", "vers:", "vers:semver", "vers:semver/", "vers:npm/1", "vers:semver/>=", "vers:semver/>=1||<2"]
)
def test_what_is_no_range_is_refused_with_a_sentence(text):
    with pytest.raises(RangeError, match=r"\.$"):
        parse_range(text)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (None, "any version"),
        ("vers:semver/*", "any version"),
        ("vers:semver/>=2.0|<3", "2.0 or newer, below 3"),
        ("vers:semver/>2.0|<=3", "newer than 2.0, 3 or older"),
        ("vers:semver/<1|>=3", "below 1, or 3 or newer"),
        ("vers:semver/=1.2", "exactly 1.2"),
        ("vers:semver/!=1.2", "any version, but not 1.2"),
    ],
)
def test_ranges_are_said_in_words(text, words):
    assert in_words(text) == words


def test_small_readings():
    assert guess_scheme("1.0", "2.3.4-rc.1") is Scheme.SEMVER
    assert guess_scheme("1.0", "2024.03.01.4") is Scheme.GENERIC
    assert semver_numbers("1.4-rc.1") == (1, 4, 0) and semver_numbers("spring") is None
