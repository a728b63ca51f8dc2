"""Loads the demo into an empty database: the catalogue from the stand-in mod host, then packs, people and rigs."""

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandParser

from true_convoy.server.catalogue.actions import import_feed
from true_convoy.server.demo import load
from true_convoy.server.jobs.models import Job


class Command(BaseCommand):
    """``load_demo --feed ADDRESS``; does nothing if anybody has an account already."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--feed", required=True, help="address of the catalogue feed")

    def handle(self, *args: Any, feed: str, **options: Any) -> None:
        if get_user_model().objects.exists():
            self.stdout.write("There are accounts already, so the demo was not loaded.")
            return
        job = Job.objects.create(title="Importing the catalogue", unit="mods")
        import_feed(job, feed)
        if job.state != Job.State.DONE:
            raise SystemExit(job.message)
        load()
        self.stdout.write("The demo was loaded.")
