"""Every role against every endpoint. The table must name each operation, and the OpenAPI document must be valid."""

import re

import pytest
from django.urls import URLPattern

from tests.server.conftest import Caller, publish
from true_convoy.server.access import Who
from true_convoy.server.packs.models import Pack
from true_convoy.server.rigs.actions import board, issue_code
from true_convoy.server.rigs.models import Rig
from true_convoy.server.urls import endpoints

ROLES = ("nobody", "stranger", "member", "curator", "owner", "staff", "rig")
IN_PACK = {Who.MEMBER: ("member", "curator", "owner"), Who.CURATOR: ("curator", "owner"), Who.OWNER: ("owner",)}
SIGNED_IN = ("stranger", "member", "curator", "owner", "staff")
TABLE = {
    "me": {"GET": Who.ANYONE},
    "games": {"GET": Who.SIGNED_IN, "PUT": Who.STAFF},
    "mods": {"GET": Who.SIGNED_IN},
    "mods/<slug:game>/<str:mod>": {"GET": Who.SIGNED_IN},
    "mods/<slug:game>/<str:mod>/builds/<str:version>": {"GET": Who.SIGNED_IN},
    "mods/<slug:game>/<str:mod>/reach": {"POST": Who.SIGNED_IN},
    "starters": {"GET": Who.SIGNED_IN, "POST": Who.STAFF},
    "starters/<int:starter>": {"DELETE": Who.STAFF},
    "shelves": {"GET": Who.SIGNED_IN, "POST": Who.SIGNED_IN},
    "shelves/<int:shelf>/people": {"PUT": Who.SIGNED_IN},
    "shelves/<int:shelf>/people/<int:person>": {"DELETE": Who.SIGNED_IN},
    "shelves/<int:shelf>/mods": {"POST": Who.SIGNED_IN},
    "uploads": {"POST": Who.SIGNED_IN},
    "pictures": {"POST": Who.SIGNED_IN},
    "uploads/<str:upload>": {"GET": Who.SIGNED_IN, "PUT": Who.SIGNED_IN, "DELETE": Who.SIGNED_IN},
    "imports": {"POST": Who.STAFF},
    "jobs": {"GET": Who.SIGNED_IN},
    "jobs/<int:job>": {"GET": Who.SIGNED_IN, "DELETE": Who.SIGNED_IN},
    "packs": {"GET": Who.SIGNED_IN, "POST": Who.SIGNED_IN},
    "packs/<slug:pack>/draft": {"GET": Who.MEMBER},
    "packs/<slug:pack>/edits": {"POST": Who.CURATOR},
    "packs/<slug:pack>/history": {"GET": Who.MEMBER},
    "packs/<slug:pack>/history/compared": {"GET": Who.MEMBER},
    "packs/<slug:pack>/go-back": {"POST": Who.CURATOR},
    "packs/<slug:pack>/undo": {"POST": Who.CURATOR},
    "packs/<slug:pack>/redo": {"POST": Who.CURATOR},
    "packs/<slug:pack>/preview-add": {"POST": Who.MEMBER},
    "packs/<slug:pack>/preview-remove": {"POST": Who.MEMBER},
    "packs/<slug:pack>/preview-off": {"POST": Who.MEMBER},
    "packs/<slug:pack>/pasted": {"POST": Who.MEMBER},
    "packs/<slug:pack>/path-rules": {"POST": Who.MEMBER},
    "packs/<slug:pack>/copy": {"POST": Who.MEMBER},
    "packs/<slug:pack>/list": {"GET": Who.MEMBER},
    "packs/<slug:pack>/own-mods": {"POST": Who.CURATOR},
    "packs/<slug:pack>/preview-edit": {"POST": Who.MEMBER},
    "packs/<slug:pack>/findings": {"GET": Who.MEMBER},
    "packs/<slug:pack>/mending": {"GET": Who.MEMBER},
    "packs/<slug:pack>/fit-table": {"GET": Who.MEMBER},
    "packs/<slug:pack>/move": {"GET": Who.MEMBER},
    "packs/<slug:pack>/load-order": {"GET": Who.MEMBER},
    "packs/<slug:pack>/picture": {"GET": Who.MEMBER},
    "packs/<slug:pack>/roster": {"GET": Who.MEMBER, "PUT": Who.OWNER},
    "packs/<slug:pack>/roster/<int:person>": {"DELETE": Who.OWNER},
    "packs/<slug:pack>/proposal": {"GET": Who.CURATOR},
    "packs/<slug:pack>/releases": {"GET": Who.MEMBER, "POST": Who.CURATOR},
    "packs/<slug:pack>/releases/<str:version>/document": {"GET": Who.MEMBER},
    "packs/<slug:pack>/codes": {"GET": Who.CURATOR, "POST": Who.CURATOR},
    "packs/<slug:pack>/codes/<str:code>": {"DELETE": Who.CURATOR},
    "packs/<slug:pack>/road": {"GET": Who.MEMBER},
    "packs/<slug:pack>/rigs/<int:rig>": {"DELETE": Who.MEMBER},
    "boarding/<str:code>": {"GET": Who.ANYONE, "POST": Who.ANYONE},
    "boarding/<str:code>/personal": {"POST": Who.SIGNED_IN},
    "rig": {"GET": Who.RIG, "DELETE": Who.RIG},
    "rig/release": {"GET": Who.RIG},
    "rig/inventory": {"PUT": Who.RIG},
    "my/rigs": {"GET": Who.SIGNED_IN},
}
CALLS = [(route, method, who) for route, methods in TABLE.items() for method, who in methods.items()]


def test_the_table_names_every_endpoint_and_what_each_states():
    found = {}
    for pattern in endpoints:
        assert isinstance(pattern, URLPattern)
        view = pattern.callback.view_class
        stated = {m: getattr(getattr(view, m.lower(), None), "who", None) for m in ("GET", "POST", "PUT", "DELETE")}
        offered = {m for m in ("GET", "POST", "PUT", "PATCH", "DELETE") if hasattr(view, m.lower())}
        assert offered == {m for m, who in stated.items() if who}, "each states who may call it"
        found[str(pattern.pattern)] = {method: who for method, who in stated.items() if who}
    assert found == TABLE


@pytest.fixture
def callers(people, pack, mod_host):
    row = Pack.objects.get(slug=pack)
    code = issue_code(row, people["owner"].user)
    rig, token = board(code.code, name="Rig", side="client")
    Rig.objects.filter(pk=rig.pk).update(user=people["member"].user)
    return people | {"rig": Caller(token=token), "pack": pack, "code": code.code, "rig_id": rig.pk}


@pytest.mark.parametrize(("route", "method", "who"), CALLS)
def test_each_role_gets_in_where_it_may_and_nowhere_else(callers, route, method, who):
    values = {"pack": callers["pack"], "code": callers["code"], "rig": callers["rig_id"], "game": "tidewrack"}
    values |= {"mod": "deep-chart", "job": 1, "person": 1, "shelf": 1, "starter": 1}
    values |= {"upload": "none", "version": "1.0.0"}
    path = re.sub(r"<\w+:(\w+)>", lambda match: str(values[match[1]]), route)
    for role in ROLES:
        status, answer = callers[role](method, path, {} if method in ("POST", "PUT") else None)
        kept_out = status in (401, 403) or (who in IN_PACK and status == 404 and role in ("stranger", "staff"))
        assert kept_out != _may(role, who), (role, status, answer)
        assert status < 500 and (status < 400 or answer["detail"].endswith("."))


def _may(role: str, who: Who) -> bool:
    match who:
        case Who.ANYONE:
            return True
        case Who.SIGNED_IN:
            return role in SIGNED_IN
        case Who.STAFF:
            return role == "staff"
        case Who.RIG:
            return role == "rig"
        case _:
            return role in IN_PACK[who]


def test_members_may_sign_off_their_own_rigs_only(callers):
    path = f"packs/{callers['pack']}/rigs/{callers['rig_id']}"
    Rig.objects.update(user=callers["owner"].user)
    status, answer = callers["member"]("DELETE", path)
    assert (status, answer["code"]) == (403, "role")
    assert callers["curator"]("DELETE", path)[0] == 200
    status, answer = callers["rig"]("GET", "rig")
    assert (status, answer["code"]) == (401, "rig-unknown")


def test_writing_needs_the_csrf_token(people, pack):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    strict.force_login(people["owner"].user)
    answer = strict.post("/api/packs", "{}", content_type="application/json")
    assert answer.status_code == 403 and "Reload" in answer.json()["detail"]


def test_an_address_that_is_none_and_a_failure_are_said_as_json(people, monkeypatch):
    assert people["owner"]("GET", "nowhere")[1]["detail"] == "There is nothing at this address."
    monkeypatch.setattr("true_convoy.server.catalogue.queries.games", lambda: 1 / 0)
    status, answer = people["owner"]("GET", "games")
    assert status == 500 and "Nothing was changed" in answer["detail"]


def test_strangers_do_not_learn_that_a_pack_is_there(people, pack):
    publish(people["owner"], pack, "1.0.0")
    assert people["stranger"]("GET", f"packs/{pack}/draft")[1] == people["stranger"]("GET", "packs/none/draft")[1]
