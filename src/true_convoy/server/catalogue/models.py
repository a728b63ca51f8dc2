"""The catalogue: games, mods and builds, each with its document and the columns that searching needs."""

from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchVector, SearchVectorField
from django.db import models
from django.db.models import Q

from .lookups import Among

models.CharField.register_lookup(Among)


class Game(models.Model):
    """A game definition, as its document. ``removals`` counts the mods of it that were removed."""

    slug = models.CharField(max_length=100, unique=True)
    name = models.CharField(max_length=200)
    document = models.JSONField()
    removals = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return self.name


class Source(models.Model):
    """Where a catalogue is imported from."""

    address = models.URLField(unique=True, max_length=500)
    imported = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.address


class Shelf(models.Model):
    """A place for mods of a team's own, which only the team finds in the catalogue.

    A pack's shelf is its curators', whoever they are; any other shelf has the people on it.
    """

    name = models.CharField(max_length=100)
    pack = models.OneToOneField("packs.Pack", models.CASCADE, null=True, related_name="shelf")
    people = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="shelves")

    def __str__(self) -> str:
        return self.name


class Mod(models.Model):
    """A mod without its builds. ``search`` is made by the database from name, authors, categories and summary.

    ``keys`` are what a pasted line may call it (see core.recognise); ``grounds`` the grounds it has a build for (see
    ``grounds``); ``changed`` tells the search what to look at again. Of a mod on a shelf, ``stated_reach`` is what its
    team says it is; it shows as such once somebody else (``reach_checked_by``) has looked.
    """

    game = models.ForeignKey(Game, models.CASCADE, related_name="mods")
    slug = models.CharField(max_length=100)
    name = models.CharField(max_length=200)
    summary = models.TextField(blank=True)
    people = models.TextField(blank=True)
    categories = ArrayField(models.CharField(max_length=100), default=list)
    kind = models.CharField(max_length=100)
    installs = models.PositiveBigIntegerField(default=0)
    newest = models.DateTimeField(null=True)
    first = models.DateTimeField(null=True)
    keys = ArrayField(models.CharField(max_length=300), default=list)
    grounds = ArrayField(models.CharField(max_length=300), default=list)
    changed = models.DateTimeField(auto_now=True)
    source = models.ForeignKey(Source, models.SET_NULL, null=True, related_name="mods")
    shelf = models.ForeignKey(Shelf, models.CASCADE, null=True, related_name="mods")
    stated_reach = models.CharField(max_length=10, blank=True, default="")
    stated_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    reach_checked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
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
            GinIndex(fields=["keys"], name="mod_keys"),
            models.Index(fields=["game", "-changed"], name="mod_by_change"),
        ]

    def __str__(self) -> str:
        return self.name


class Build(models.Model):
    """A build without the list of its contents. ``bundles`` are mods it carries inside, ``bridges`` mods it patches.

    ``requires`` are the mods it names in its requirements.
    """

    mod = models.ForeignKey(Mod, models.CASCADE, related_name="builds")
    version = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64, blank=True, db_index=True)
    bundles = ArrayField(models.CharField(max_length=100), default=list)
    bridges = ArrayField(models.CharField(max_length=100), default=list)
    requires = ArrayField(models.CharField(max_length=100), default=list)
    document = models.JSONField()

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["mod", "version"], name="one_build_per_version")
        ]
        indexes: ClassVar[list[models.Index]] = [
            # Of a million builds few carry or patch others: an index of those alone is small, and the planner takes it.
            GinIndex(fields=["bundles"], name="build_bundling", condition=~Q(bundles=[])),
            GinIndex(fields=["bridges"], name="build_bridging", condition=~Q(bridges=[])),
            GinIndex(fields=["requires"], name="build_requiring", condition=~Q(requires=[])),
        ]

    def __str__(self) -> str:
        return f"{self.mod_id} {self.version}"


class Contents(models.Model):
    """What is inside a build's archive; apart, because only freezing and inspecting need it."""

    build = models.OneToOneField(Build, models.CASCADE, primary_key=True, related_name="contents")
    files = models.JSONField()

    class Meta:
        indexes: ClassVar[list[models.Index]] = [
            # By the checksum of one of its files a build is found again in somebody's folder.
            GinIndex(fields=["files"], name="contents_files", opclasses=["jsonb_path_ops"])
        ]

    def __str__(self) -> str:
        return f"contents of {self.build_id}"


class Starter(models.Model):
    """A starter collection: a pack document that staff offer for beginning a pack."""

    game = models.ForeignKey(Game, models.CASCADE, related_name="starters")
    name = models.CharField(max_length=200)
    about = models.TextField(blank=True)
    document = models.JSONField()

    def __str__(self) -> str:
        return self.name
