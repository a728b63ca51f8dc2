"""Builds know which mods they patch, so that a draft finds the patches that it lacks."""

import django.contrib.postgres.fields
import django.contrib.postgres.indexes
from django.db import migrations, models


def fill(apps, schema_editor):
    build = apps.get_model("catalogue", "Build")
    for row in build.objects.filter(document__relations__contains=[{"kind": "bridges"}]).iterator():
        row.bridges = [mod for one in row.document["relations"] if one["kind"] == "bridges" for mod in one["mods"]]
        row.save(update_fields=["bridges"])


class Migration(migrations.Migration):
    dependencies = [("catalogue", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="build",
            name="bridges",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(max_length=100), default=list, size=None
            ),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop, elidable=True),
        migrations.RemoveIndex(model_name="build", name="build_bundles"),
        migrations.AddIndex(
            model_name="build",
            index=django.contrib.postgres.indexes.GinIndex(
                condition=~models.Q(bundles=[]), fields=["bundles"], name="build_bundling"
            ),
        ),
        migrations.AddIndex(
            model_name="build",
            index=django.contrib.postgres.indexes.GinIndex(
                condition=~models.Q(bridges=[]), fields=["bridges"], name="build_bridging"
            ),
        ),
    ]
