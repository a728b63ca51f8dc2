"""What the search narrows and counts by, shelves, and starter collections."""

import django.contrib.postgres.fields
import django.contrib.postgres.indexes
import django.db.models.deletion
import msgspec
from django.conf import settings
from django.db import migrations, models

from true_convoy.core import recognise
from true_convoy.core.model import Build, Game
from true_convoy.server.catalogue.grounds import every_ground, grounds_of


def fill(apps, schema_editor):
    for game in apps.get_model("catalogue", "Game").objects.all():
        value = msgspec.convert(game.document, Game)
        grounds = every_ground(value)
        for mod in (
            apps.get_model("catalogue", "Mod").objects.filter(game=game).defer("search").iterator(chunk_size=500)
        ):
            builds = []
            for row in mod.builds.all():
                builds.append(msgspec.convert(row.document, Build))
                row.requires = sorted({t.mod for r in builds[-1].relations if hasattr(r, "targets") for t in r.targets})
                row.save(update_fields=["requires"])
            page = mod.document.get("page")
            keys = {recognise.folded(mod.name), recognise.folded(mod.slug)}
            mod.keys = sorted(keys | ({recognise.page_key(page)} if page else set()))
            mod.grounds = grounds_of(builds, value, grounds)
            mod.first = min((build.published for build in builds if build.published), default=None)
            mod.save(update_fields=["keys", "grounds", "first"])


class Migration(migrations.Migration):
    dependencies = [
        ("catalogue", "0002_bridges"),
        ("packs", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Shelf",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=100)),
            ],
        ),
        migrations.CreateModel(
            name="Starter",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=200)),
                ("about", models.TextField(blank=True)),
                ("document", models.JSONField()),
            ],
        ),
        migrations.RemoveIndex(
            model_name="mod",
            name="mod_categories",
        ),
        migrations.RemoveIndex(
            model_name="mod",
            name="mod_by_installs",
        ),
        migrations.AddField(
            model_name="build",
            name="requires",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(max_length=100), default=list, size=None
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="changed",
            field=models.DateTimeField(auto_now=True),
        ),
        migrations.AddField(
            model_name="mod",
            name="first",
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name="mod",
            name="grounds",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(max_length=300), default=list, size=None
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="keys",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(max_length=300), default=list, size=None
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="reach_checked_by",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="source",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="mods", to="catalogue.source"
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="stated_by",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL
            ),
        ),
        migrations.AddField(
            model_name="mod",
            name="stated_reach",
            field=models.CharField(blank=True, default="", max_length=10),
        ),
        migrations.AddIndex(
            model_name="build",
            index=django.contrib.postgres.indexes.GinIndex(
                condition=models.Q(("requires", []), _negated=True), fields=["requires"], name="build_requiring"
            ),
        ),
        migrations.AddField(
            model_name="shelf",
            name="pack",
            field=models.OneToOneField(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="shelf", to="packs.pack"
            ),
        ),
        migrations.AddField(
            model_name="shelf",
            name="people",
            field=models.ManyToManyField(related_name="shelves", to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name="mod",
            name="shelf",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="mods", to="catalogue.shelf"
            ),
        ),
        migrations.AddIndex(
            model_name="mod",
            index=django.contrib.postgres.indexes.GinIndex(fields=["keys"], name="mod_keys"),
        ),
        migrations.AddField(
            model_name="starter",
            name="game",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="starters", to="catalogue.game"
            ),
        ),
        migrations.AddIndex(
            model_name="contents",
            index=django.contrib.postgres.indexes.GinIndex(
                fields=["files"], name="contents_files", opclasses=["jsonb_path_ops"]
            ),
        ),
        migrations.AddField(model_name="game", name="removals", field=models.PositiveIntegerField(default=0)),
        migrations.AddIndex(model_name="mod", index=models.Index(fields=["game", "-changed"], name="mod_by_change")),
        migrations.RunPython(fill, migrations.RunPython.noop, elidable=True),
    ]
