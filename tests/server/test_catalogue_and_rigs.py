"""The catalogue: import, search, extract. Boarding codes, rigs and what they report. Accounts and live events."""

import asyncio
import json
from datetime import timedelta

import pytest
from django.test import AsyncClient, Client, override_settings
from django.utils import timezone
from msgspec.structs import replace

from tests.server.conftest import PASSWORD, Caller, add, publish
from true_convoy.core import documents
from true_convoy.core.model import Catalogue, GameVersion, Inventory, RigFile, Side
from true_convoy.core.model import Game as GameValue
from true_convoy.core.model import Release as ReleaseValue
from true_convoy.core.resolve import resolve
from true_convoy.core.sync import wanted_files
from true_convoy.server.catalogue import actions, queries
from true_convoy.server.catalogue.models import Build, Mod
from true_convoy.server.events import HUB
from true_convoy.server.jobs.models import Job
from true_convoy.server.packs.models import Pack
from true_convoy.server.packs.queries import draft
from true_convoy.server.rigs.models import BoardingCode, Rig


def imported(feed: str) -> Job:
    job = Job.objects.create(title="Import", unit="mods")
    actions.import_feed(job, feed)
    return job


def test_importing_again_changes_nothing_and_a_feed_that_fails_in_the_middle_goes_on_later(db, mod_host):
    before = list(Mod.objects.order_by("pk").values_list("pk", "digest"))
    job = imported(mod_host.feed)
    assert (job.state, job.done, job.total) == (Job.State.DONE, 200, 200)
    assert list(Mod.objects.order_by("pk").values_list("pk", "digest")) == before
    Mod.objects.all().delete()
    mod_host.misbehave("down", "nothing", 1)
    mod_host.misbehave("down", "/catalogue", 1)
    failed = imported(mod_host.feed)
    assert failed.state == Job.State.FAILED and "status 503" in failed.message
    assert imported(mod_host.feed).state == Job.State.DONE
    assert (Mod.objects.count(), Build.objects.count()) == (200, 657)


def test_a_job_that_is_cancelled_stops_and_says_so(db, mod_host):
    job = Job.objects.create(title="Import", unit="mods", cancel_asked=True)
    actions.import_feed(job, mod_host.feed)
    assert job.state == Job.State.CANCELLED and "cancelled" in job.message


def ready(version: str) -> int:
    """How many Tidewrack mods are known to have something for a version."""
    rows = Mod.objects.filter(game__slug="tidewrack").values_list("grounds", flat=True)
    return sum(any(key.startswith(f"{version}|") for key in grounds) for grounds in rows)


def with_version(label: str) -> GameValue:
    game = queries.game_value("tidewrack")
    return replace(game, versions=(*game.versions, GameVersion(label=label)))


@pytest.mark.django_db
def test_a_feed_with_a_new_version_of_the_game_says_at_once_what_each_mod_is_for():
    actions.take_in(Catalogue(games=(with_version("2.4.7"),), mods=()))
    assert ready("2.4.7") == ready("2.4.1") > 50
    assert ready("2.4.8") == 0


@pytest.mark.django_db
def test_a_definition_is_kept_though_its_job_is_cancelled_and_another_job_finishes_it():
    actions.keep_game(with_version("2.4.7"))
    first = Job.objects.create(title="Working out", unit="mods", cancel_asked=True)
    actions.reground_in_background(first, "tidewrack")
    assert first.state == Job.State.CANCELLED and "cancelled" in first.message and ready("2.4.7") == 0
    assert [version.label for version in queries.game_value("tidewrack").versions][-1] == "2.4.7"
    second = Job.objects.create(title="Working out", unit="mods")
    actions.reground_in_background(second, "tidewrack")
    assert (second.state, second.done, second.total) == (Job.State.DONE, 60, 60) and ready("2.4.7") > 50


@pytest.mark.parametrize(
    ("page", "said"),
    [
        ({"format": "true-convoy/pack"}, "$.format"),
        ({"mods": [{"slug": "x", "game": "chess", "name": "X", "builds": []}]}, "is not known"),
        ({"next": "http://127.0.0.1:1/elsewhere"}, "leads to another host"),
        ({"mods": [{"slug": "../x", "game": "tidewrack", "name": "X", "builds": []}]}, "$.mods[0].slug"),
    ],
)
def test_a_feed_that_is_wrong_is_said(db, monkeypatch, page, said):
    whole = {"format": "true-convoy/catalogue", "format_version": 1, "games": [], "mods": []} | page
    monkeypatch.setattr(actions, "fetch_page", lambda address: whole)
    job = imported("http://127.0.0.1:9/feed")
    assert job.state == Job.State.FAILED and said in job.message


def test_the_import_endpoint_queues_a_job_and_refuses_what_is_no_address(people):
    status, job = people["staff"]("POST", "imports", {"address": "http://127.0.0.1:9/catalogue"})
    assert status == 202 and job["state"] == "waiting"
    assert people["staff"]("DELETE", f"jobs/{job['id']}")[0] == 200
    assert people["owner"]("GET", f"jobs/{job['id']}")[0] == 404, "jobs are their owner's"
    for address in ("file:///etc/passwd", "nonsense", "http://0.0.0.0/", "http://a:b@c/"):
        assert people["staff"]("POST", "imports", {"address": address})[0] == 400


SEARCHES = [
    ("buoy", "better-buoys"),
    ("bouy", "better-buoys"),
    ("Deep Chrat", "deep-chart"),
    ("sextan", "star-sextant"),
    ("Pell Aristide", "deep-chart"),
    ("seasick", "steady-camera"),
    ("leviathan's", "leviathan-rest"),
]


@pytest.mark.parametrize(("text", "slug"), SEARCHES)
def test_searching_forgives_typing_mistakes(people, text, slug):
    answer = people["owner"].client.get("/api/mods", {"game": "tidewrack", "q": text}).json()
    assert slug in [mod["slug"] for mod in answer["mods"][:5]]


@pytest.mark.parametrize("text", ["", "%", "'; DROP", "a & | !", "\u202e", "x" * 5000, "((", "zzzqqq"])
def test_no_text_makes_searching_fail(people, text):
    assert people["owner"].client.get("/api/mods", {"game": "tidewrack", "q": text}).status_code == 200


def test_each_result_says_whether_it_suits_the_draft(people, pack):
    add(people["owner"], pack, "galley")
    found = people["owner"].client.get("/api/mods", {"game": "tidewrack", "pack": pack}).json()["mods"]
    later = people["owner"].client.get("/api/mods", {"game": "tidewrack", "pack": pack, "page": 2}).json()["mods"]
    fits = {mod["slug"]: mod["fit"] for mod in found + later}
    assert len(fits) == 60 and fits["galley"]["answer"] == "already-in"
    assert (
        fits["outrigger-floats"]["answer"] == "other-loader" and "needs Outrigger" in fits["outrigger-floats"]["reason"]
    )
    assert fits["deep-chart"]["answer"] == "older-build" and "beta" in fits["deep-chart"]["reason"]
    address = "mods/tidewrack/better-buoys"
    status, mod = people["owner"]("GET", address)
    assert status == 200 and "Lantern Works or Glowfish Light 1.1 or newer" in mod["builds"][0]["needs"]


def test_the_extract_gives_the_same_answer_as_the_whole_catalogue(
    people, pack, tidewrack, django_assert_max_num_queries
):
    add(people["owner"], pack, "deep-chart", "better-buoys", "engine-room")
    value = draft(Pack.objects.get(slug=pack))[1]
    with django_assert_max_num_queries(25):
        part = queries.extract("tidewrack", [entry.mod for entry in value.entries])
    assert len(part.mods) < 30
    for newest in (False, True):
        assert resolve(value, part, newest=newest) == resolve(value, tidewrack, newest=newest)


# --- boarding and rigs -------------------------------------------------------------------------------------------


@pytest.fixture
def released(people, pack) -> str:
    add(people["owner"], pack, "galley", "harbour-master")
    publish(people["owner"], pack, "1.0.0")
    return pack


def new_code(people, pack, **body) -> str:
    status, code = people["owner"]("POST", f"packs/{pack}/codes", body)
    assert status == 201
    return code["code"]


def test_a_code_leads_to_the_pack_until_it_is_revoked_or_expires(people, released):
    nobody, code = people["nobody"], new_code(people, released)
    status, page = nobody("GET", f"boarding/{code.lower().replace('-', ' ')}")
    assert (status, page["pack"], page["version"], page["entries"]) == (200, "Thursday Deep", "1.0.0", 2)
    assert page["command"] == f"convoy join http://testserver/join/{code}"
    assert people["owner"]("DELETE", f"packs/{released}/codes/{code}")[0] == 200
    expired = new_code(people, released, days=1)
    BoardingCode.objects.filter(code=expired).update(expires=timezone.now() - timedelta(minutes=1))
    wrong = code[:-1] + ("C" if code[-1] != "C" else "F")
    for text, status, said in (
        (code, 410, "was revoked"),
        (expired, 410, "has expired"),
        (wrong, 400, "mistyped"),
        ("22222-22222", 404, "No pack has this"),
        ("O0O0O-O0O0O", 400, "never contain"),
    ):
        got, answer = nobody("GET", f"boarding/{text}")
        assert (got, said in answer["detail"]) == (status, True), answer
        assert nobody("POST", f"boarding/{text}", {"name": "x"})[0] == status
    for body, refusal in (({"release": "9"}, "no-release"), ({"channel": "x"}, "channel"), ({"days": 0}, "days")):
        assert people["owner"]("POST", f"packs/{released}/codes", body)[1]["code"] == refusal


def test_trying_codes_at_random_is_slowed_down(people, released, monkeypatch):
    from true_convoy.server.frame import CodeThrottle

    monkeypatch.setattr(CodeThrottle, "THROTTLE_RATES", {"codes": "3/min"})
    statuses = [people["nobody"]("GET", "boarding/22222-22222")[0] for _ in range(5)]
    assert statuses[-1] == 429


def test_a_personal_code_puts_its_person_on_the_roster_and_works_once(people, released):
    stranger = people["stranger"]
    personal = stranger("POST", f"boarding/{new_code(people, released)}/personal")[1]
    assert stranger("GET", "packs")[1]["packs"][0]["role"] == "member"
    assert people["nobody"]("POST", f"boarding/{personal['code']}", {"name": "Mine"})[0] == 201
    assert people["nobody"]("POST", f"boarding/{personal['code']}", {"name": "Again"})[1]["code"] == "code-used"
    rigs = stranger("GET", "my/rigs")[1]["rigs"]
    assert [rig["name"] for rig in rigs[0]["road"]["rigs"]] == ["Mine"]
    status, left = people["owner"]("DELETE", f"packs/{released}/roster/{stranger.user.pk}")
    assert status == 200 and [person["name"] for person in left["people"]] == ["Owner", "Curator", "Member"]
    assert stranger("GET", "my/rigs")[1]["rigs"] == [], "their rigs are signed off with them"


def test_a_rig_asks_conditionally_reports_and_is_seen_in_each_state(people, released):
    code = new_code(people, released)
    aboard = people["nobody"]("POST", f"boarding/{code}", {"name": "Desk", "side": "client"})[1]
    rig = Caller(token=aboard["token"])
    assert aboard["token"] not in str(Rig.objects.values()), "only the hash of a token is kept"

    def state() -> str:
        return people["member"]("GET", f"packs/{released}/road")[1]["rigs"][0]["state"]

    assert state() == "behind"
    answer = rig.client.get("/api/rig/release")
    release = documents.read(ReleaseValue, answer.content).value
    assert rig.client.get("/api/rig/release", headers={"If-None-Match": answer["ETag"]}).status_code == 304
    files = tuple(
        RigFile(path=goal.target, size=goal.size, sha256=goal.sha256)
        for goal in wanted_files(release, Side.CLIENT).values()
    )
    whole = Inventory(release=release.digest, files=files)
    altered = Inventory(release=release.digest, files=(RigFile(path=files[0].path, size=1, sha256="0" * 64),))
    for inventory, expected in ((whole, "in step"), (altered, "strayed"), (whole, "in step")):
        assert rig("PUT", "rig/inventory", documents.to_builtins(inventory))[0] == 200
        assert state() == expected
    Rig.objects.update(reported=timezone.now() - timedelta(days=15))
    assert state() == "silent"
    rig("PUT", "rig/inventory", documents.to_builtins(whole))
    add(people["owner"], released, "fog-bank")
    publish(people["owner"], released, "1.1.0")
    assert state() == "behind"
    assert rig.client.get("/api/rig/release", headers={"If-None-Match": answer["ETag"]}).status_code == 200
    status, refused = rig("PUT", "rig/inventory", {"format": "true-convoy/inventory", "format_version": 1, "files": 7})
    assert status == 400 and "$.files" in refused["detail"]
    assert rig("DELETE", "rig")[0] == 200 and rig("GET", "rig")[0] == 401


def test_a_code_for_one_release_and_the_trial_channel(people, released):
    exact, trial = new_code(people, released, release="1.0.0"), new_code(people, released, channel="trial")
    add(people["owner"], released, "fog-bank")
    body = {"revision": draft(Pack.objects.get(slug=released))[0].number, "version": "1.1.0", "channel": "trial"}
    assert people["owner"]("POST", f"packs/{released}/releases", body)[0] == 201
    for code, version in ((exact, "1.0.0"), (trial, "1.1.0"), (new_code(people, released), "1.0.0")):
        assert people["nobody"]("POST", f"boarding/{code}", {"name": "x"})[1]["version"] == version


def test_the_join_page_hands_out_the_members_command(people, released, tmp_path):
    with override_settings(AGENT_DIST=tmp_path):
        code = new_code(people, released)
        assert people["nobody"]("GET", f"boarding/{code}")[1]["install"] == ""
        (tmp_path / "true_convoy-1-py3-none-any.whl").write_bytes(b"a wheel")
        install = people["nobody"]("GET", f"boarding/{code}")[1]["install"]
        assert install == "uv tool install http://testserver/agent/true_convoy-1-py3-none-any.whl"
        path = install.removeprefix("uv tool install http://testserver")
        assert Client().get(path).content == b"a wheel"
        for other in ("/agent/other.whl", "/agent/..%2fsecrets", "/agent/"):
            assert Client().get(other).content != b"a wheel"


# --- accounts and events -----------------------------------------------------------------------------------------


def account(client: Client, path: str, body: dict, method: str = "post"):
    return getattr(client, method)(f"/_allauth/browser/v1/{path}", json.dumps(body), content_type="application/json")


def test_signing_up_in_and_changing_the_password(db):
    client = Client()
    person = {"email": "New.Person@x.example", "password": PASSWORD, "name": "New Person"}
    assert account(client, "auth/signup", person).status_code == 200
    assert client.get("/api/me").json() | {"staff": False} == {
        "signed_in": True, "name": "New Person", "email": "new.person@x.example", "staff": False,
    }  # fmt: skip
    change = {"current_password": "wrong", "new_password": "eight bells at noon"}
    assert account(client, "account/password/change", change).status_code == 400
    assert account(client, "account/password/change", change | {"current_password": PASSWORD}).status_code == 200
    other = Client()
    login = {"email": "new.person@x.example", "password": PASSWORD}
    assert account(other, "auth/login", login).status_code == 400
    assert account(other, "auth/login", login | {"password": "eight bells at noon"}).status_code == 200
    assert account(Client(), "auth/signup", person | {"email": "b@x.example", "password": "12345"}).status_code == 400


@pytest.mark.django_db(transaction=True)
def test_what_is_committed_is_announced_to_those_it_concerns():
    from asgiref.sync import sync_to_async
    from django.db import connection

    from true_convoy.server.accounts.models import User
    from true_convoy.server.events import announce
    from true_convoy.server.packs.models import Membership

    user = User.objects.create_user("e@x.example", name="E")
    Membership.objects.create(pack=Pack.objects.create(slug="mine", name="Mine", game="g"), user=user, role="member")

    def speak():
        for slug in ("other", "mine"):
            announce("draft", slug)
        connection.close()

    async def listen() -> list[dict]:
        client = AsyncClient()
        assert (await client.get("/api/events")).status_code == 401
        await client.aforce_login(user)
        response = await client.get("/api/events?pack=mine")
        heard = []
        async for chunk in response.streaming_content:
            for line in chunk.decode().splitlines():
                if line.startswith("data: "):
                    heard.append(json.loads(line[6:]))
            if heard and heard[-1]["topic"] == "everything":
                await sync_to_async(speak)()
            if heard and heard[-1]["topic"] == "draft":
                break
        HUB.readers.clear()
        return heard

    heard = asyncio.run(asyncio.wait_for(listen(), 30))
    assert {"topic": "draft", "pack": "mine"} in heard
    assert not [event for event in heard if event["pack"] == "other"]
    assert [event["name"] for event in heard if event["topic"] == "presence"] == ["E"]
