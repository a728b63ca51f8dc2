"""Findings as SARIF 2.1.0 (OASIS), so that a pack in version control can be checked by any continuous integration."""

from collections.abc import Sequence
from typing import Any

from .checks import Finding, Grade

_LEVEL = {Grade.STOP: "error", Grade.CAUTION: "warning", Grade.NOTE: "note"}
_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"


def as_sarif(findings: Sequence[Finding], pack_file: str, text: str, version: str) -> dict[str, Any]:
    """A SARIF log with one run. Findings point at the line of their first mod's entry in the pack document ``text``."""
    codes = sorted({finding.code for finding in findings})
    driver = {"name": "True Convoy", "version": version, "rules": [{"id": code} for code in codes]}
    return {
        "$schema": _SCHEMA,
        "version": "2.1.0",
        "runs": [
            {
                "tool": {"driver": driver},
                "results": [_result(finding, codes, pack_file, text) for finding in findings],
            }
        ],
    }


def _result(finding: Finding, codes: Sequence[str], pack_file: str, text: str) -> dict[str, Any]:
    ways = " ".join(f"{fix.label}." for fix in finding.fixes[:1])
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": codes.index(finding.code),
        "level": _LEVEL[finding.grade],
        "message": {"text": " ".join(part for part in (finding.message, finding.effect, ways) if part)},
        "locations": [
            {
                "physicalLocation": {
                    "artifactLocation": {"uri": pack_file},
                    "region": {"startLine": _line(finding, text)},
                }
            }
        ],
        "partialFingerprints": {"findingFacts/v1": finding.facts},
    }
    if finding.accepted is not None:
        result["suppressions"] = [{"kind": "inSource", "justification": finding.accepted}]
    return result


def _line(finding: Finding, text: str) -> int:
    """The line, from 1, on which the first mod that the pack document names stands; the first line otherwise."""
    lines = text.splitlines()
    for mod in finding.mods:
        for number, line in enumerate(lines, start=1):
            if f'"{mod}"' in line:
                return number
    return 1
