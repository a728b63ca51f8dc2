"""Uploads and kept files."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("jobs", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Blob",
            fields=[
                ("sha256", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("size", models.BigIntegerField()),
                ("created", models.DateTimeField(auto_now_add=True)),
            ],
        ),
        migrations.CreateModel(
            name="Upload",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                ("game", models.CharField(max_length=100)),
                ("name", models.CharField(max_length=255)),
                ("size", models.BigIntegerField()),
                ("mark", models.CharField(blank=True, default="", max_length=64)),
                ("received", models.BigIntegerField(default=0)),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("receiving", "Receiving"),
                            ("looking", "Looking"),
                            ("judged", "Judged"),
                            ("refused", "Refused"),
                        ],
                        default="receiving",
                        max_length=10,
                    ),
                ),
                ("sha256", models.CharField(blank=True, default="", max_length=64)),
                ("report", models.JSONField(default=dict)),
                ("contents", models.JSONField(default=list)),
                ("message", models.TextField(blank=True, default="")),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("job", models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, to="jobs.job")),
                (
                    "owner",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="uploads", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={
                "ordering": ["-created"],
            },
        ),
    ]
