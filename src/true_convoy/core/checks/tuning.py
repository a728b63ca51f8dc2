"""Settings against what builds are known to read, and memory against what the pack needs."""

from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from ..assemble import totals
from ..edits import RemoveSetting, SetRuntime, SetSetting
from ..model import KnownSetting, Setting
from . import mends
from .finding import Fix, Found, Grade
from .situation import Situation


def settings(situation: Situation) -> Iterator[Found]:
    """Settings that nothing reads, that are out of bounds, or of a mod that is not there."""
    if not situation.pack.settings:
        return
    files: dict[str, dict[str, KnownSetting]] = {}
    readers: dict[str, str] = {}
    for slug in situation.entries:
        build = situation.build(slug)
        for known in build.settings if build else ():
            files.setdefault(known.file, {})[known.key] = known
            readers[known.file] = slug
    absent = {
        known.file: slug
        for slug, mod in sorted(situation.mods.items())
        if slug not in situation.entries
        for build in mod.builds
        for known in build.settings
    }
    for setting in situation.pack.settings:
        if setting.file in files:
            yield from _against(situation, setting, files[setting.file], readers[setting.file])
        elif setting.file in absent:
            name = situation.name(absent[setting.file])
            yield Found(
                code="setting-of-absent-mod",
                grade=Grade.CAUTION,
                mods=(absent[setting.file],),
                paths=(f"{setting.file}#{setting.key}",),
                message=f"{setting.key} in {setting.file} is a setting of {name}, which is not on in the draft.",
                effect="It is written for nobody.",
                mends=lambda setting=setting: [_take_out(setting)],  # type: ignore[misc]
            )


def _against(situation: Situation, setting: Setting, known: dict[str, KnownSetting], slug: str) -> Iterator[Found]:
    name, where = situation.name(slug), (f"{setting.file}#{setting.key}",)
    if setting.key not in known:
        yield Found(
            code="unknown-setting",
            grade=Grade.CAUTION,
            mods=(slug,),
            paths=where,
            message=f"{name} does not know the setting {setting.key} in {setting.file}.",
            effect="It does nothing, and the game may complain about it.",
            mends=lambda: [_take_out(setting)],
        )
        return
    about = known[setting.key]
    nearest = _nearest(setting.value, about)
    if nearest is not None:
        made = SetSetting(setting=replace(setting, value=nearest))
        yield Found(
            code="value-out-of-range",
            grade=Grade.CAUTION,
            mods=(slug,),
            paths=where,
            message=f"{setting.key} in {setting.file} is {setting.value}; {name} takes {_bounds(about)}.",
            effect="The mod takes its default instead, or the game stops.",
            facts=(str(setting.value),),
            mends=lambda: [mends.fix(f"Set it to {nearest}", [made], safe=True), _take_out(setting, safe=False)],
        )


def _take_out(setting: Setting, *, safe: bool = True) -> Fix | None:
    edit = RemoveSetting(file=setting.file, key=setting.key)
    return mends.fix(f"Take {setting.key} out of the settings", [edit], safe=safe)


def _nearest(value: Any, known: KnownSetting) -> Any:
    """The value nearest to one that is out of bounds; None where it is fine."""
    if known.choices:
        return None if value in known.choices else known.default if known.default in known.choices else known.choices[0]
    if known.minimum is None and known.maximum is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float):
        return known.default if known.default is not None else known.minimum
    low = value if known.minimum is None else max(value, known.minimum)
    near = low if known.maximum is None else min(low, known.maximum)
    whole = isinstance(value, int) and float(near).is_integer()
    return None if near == value else int(near) if whole else near


def _bounds(known: KnownSetting) -> str:
    if known.choices:
        return "one of " + ", ".join(known.choices)
    if known.minimum is None:
        return f"{known.maximum:g} or less"
    if known.maximum is None:
        return f"{known.minimum:g} or more"
    return f"{known.minimum:g} to {known.maximum:g}"


def memory(situation: Situation) -> Iterator[Found]:
    """Whether the memory the pack asks for is enough for its mods."""
    asked = situation.pack.runtime.memory_min_mib
    needed = totals(situation.pack, situation.catalogue).memory_mib
    if asked is not None and asked < needed:
        runtime = situation.pack.runtime
        preferred = runtime.memory_preferred_mib
        made = replace(
            runtime,
            memory_min_mib=needed,
            memory_preferred_mib=max(preferred, needed) if preferred is not None else None,
        )
        yield Found(
            code="memory-low",
            grade=Grade.CAUTION,
            mods=(),
            message=f"The pack asks for {asked} MiB of memory; its {len(situation.entries)} mods need about {needed}.",
            effect="The game stutters or stops after a while.",
            facts=(str(asked), str(needed)),
            mends=lambda: [mends.fix(f"Ask for {needed} MiB", [SetRuntime(runtime=made)], safe=True)],
        )
