"""The catalogue: games, mods and builds, each with its document and the columns that searching needs."""

from typing import ClassVar

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchVector, SearchVectorField
from django.db import models
from django.db.models import F, Func, Value


class Game(models.Model):
    """A game definition, as its document."""

    slug = models.CharField(max_length=100, unique=True)
    name = models.CharField(max_length=200)
    document = models.JSONField()

    def __str__(self) -> str:
        return self.name


class Mod(models.Model):
    """A mod without its builds. ``search`` is made by the database from name, authors, categories and summary."""

    game = models.ForeignKey(Game, models.CASCADE, related_name="mods")
    slug = models.CharField(max_length=100)
    name = models.CharField(max_length=200)
    summary = models.TextField(blank=True)
    people = models.TextField(blank=True)
    categories = ArrayField(models.CharField(max_length=100), default=list)
    kind = models.CharField(max_length=100)
    installs = models.PositiveBigIntegerField(default=0)
    newest = models.DateTimeField(null=True)
    document = models.JSONField()
    digest = models.CharField(max_length=64)
    search = models.GeneratedField(
        expression=SearchVector("name", weight="A", config="english")
        + SearchVector("people", weight="B", config="english")
        + SearchVector("summary", weight="C", config="english"),
        output_field=SearchVectorField(),
        db_persist=True,
    )

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["game", "slug"], name="one_mod_per_slug")
        ]
        indexes: ClassVar[list[models.Index]] = [
            GinIndex(fields=["search"], name="mod_search"),
            GinIndex(fields=["name"], opclasses=["gin_trgm_ops"], name="mod_name_trigrams"),
            GinIndex(fields=["categories"], name="mod_categories"),
            models.Index(fields=["game", "-installs", "slug"], name="mod_by_installs"),
        ]

    def __str__(self) -> str:
        return self.name


class Build(models.Model):
    """A build without the list of its contents. ``bundles`` names mods it carries inside."""

    mod = models.ForeignKey(Mod, models.CASCADE, related_name="builds")
    version = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64, blank=True, db_index=True)
    bundles = ArrayField(models.CharField(max_length=100), default=list)
    document = models.JSONField()

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["mod", "version"], name="one_build_per_version")
        ]
        indexes: ClassVar[list[models.Index]] = [GinIndex(fields=["bundles"], name="build_bundles")]

    def __str__(self) -> str:
        return f"{self.mod_id} {self.version}"


class Contents(models.Model):
    """What is inside a build's archive; apart, because only freezing and inspecting need it."""

    build = models.OneToOneField(Build, models.CASCADE, primary_key=True, related_name="contents")
    files = models.JSONField()

    def __str__(self) -> str:
        return f"contents of {self.build_id}"


class Source(models.Model):
    """Where a catalogue is imported from."""

    address = models.URLField(unique=True, max_length=500)
    imported = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.address


class Likeness(Func):
    """How alike a search text and some word of a column are, from 0 to 1 (trigrams)."""

    function = "word_similarity"
    output_field = models.FloatField()

    def __init__(self, text: str, column: str) -> None:
        super().__init__(Value(text), F(column))
