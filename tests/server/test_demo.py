"""The demo shows every state, and its figures are those of a real draft and real releases."""

from itertools import pairwise

import pytest
from django.core.management import call_command

from tests.server.conftest import Caller
from true_convoy.core.state import State
from true_convoy.server.accounts.models import User
from true_convoy.server.demo import PEOPLE, load
from true_convoy.server.packs.models import Pack
from true_convoy.server.packs.queries import draft
from true_convoy.server.releases.models import Release
from true_convoy.server.rigs.queries import road


@pytest.fixture
def demo(db):
    load()
    return Caller(User.objects.get(email="maren@lantern-lane.example"))


def test_rigs_are_in_every_state(demo):
    seen = road(Pack.objects.get(slug="thursday-deep"))
    assert {rig.state for rig in seen.rigs} == set(State)
    assert {rig.side for rig in seen.rigs} == {"client", "server"}
    assert [milestone.version for milestone in seen.milestones] == ["1.0.0", "1.1.0", "1.2.0"]
    assert [milestone.target for milestone in seen.milestones] == [False, False, True]
    strayed = [rig for rig in seen.rigs if rig.state is State.STRAYED]
    assert all(rig.details for rig in strayed)


def test_the_draft_has_changes_and_fits_together(demo):
    status, shown = demo("GET", "packs/thursday-deep/draft")
    assert status == 200 and shown["problems"] == []
    found = demo("GET", "packs/thursday-deep/findings")[1]
    assert (found["stops"], found["cautions"]) == (0, 0), "nothing that an entry needs is missing either"
    assert shown["since"]["count"] == 4 and shown["totals"]["entries"] > 30
    assert any(row["pin"] for row in shown["entries"]) and any(row["by_hand"] for row in shown["entries"])
    assert demo("GET", "packs/thursday-deep/proposal")[1]["version"] == "2.0.0", "an entry is gone"


def test_releases_follow_each_other(demo):
    rows = list(Release.objects.filter(pack__slug="thursday-deep").order_by("pk"))
    assert [row.published for row in rows] == sorted(row.published for row in rows)
    assert all(f'"previous": "{one.digest}"' in two.document for one, two in pairwise(rows))


def test_loading_it_again_does_nothing(demo, capsys):
    call_command("load_demo", feed="http://127.0.0.1:9/")
    assert "There are accounts already" in capsys.readouterr().out
    assert User.objects.count() == len(PEOPLE)
    assert draft(Pack.objects.get(slug="saturday-shallows"))[1].entries
