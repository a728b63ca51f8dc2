"""A server with the small world's catalogue, and people to call it with."""

import json
from typing import Any

import pytest
from django.conf import settings
from django.test import Client

from true_convoy.server.accounts.models import User
from true_convoy.server.catalogue import memory
from true_convoy.server.catalogue.actions import take_in
from true_convoy.server.packs.models import Membership, Pack

PASSWORD = "four lanterns lit"


def pytest_configure() -> None:
    """Hashing passwords is slow on purpose, and most of a test's time if it is left so."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


class Caller:
    """Calls the API as one person, one rig or nobody; answers are plain values with their status."""

    def __init__(self, user: User | None = None, token: str = "") -> None:
        self.client = Client(headers={"Authorization": f"Rig {token}"} if token else {})
        self.user = user
        if user is not None:
            self.client.force_login(user)

    def __call__(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, Any]:
        given = {"data": json.dumps(body), "content_type": "application/json"} if body is not None else {}
        response = self.client.generic(method, f"/api/{path}", headers=headers, **given)
        try:
            return response.status_code, json.loads(response.content)
        except ValueError:
            return response.status_code, response


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker, tidewrack):
    """The test database with the catalogue in it, once for all tests."""
    with django_db_blocker.unblock():
        take_in(tidewrack)


@pytest.fixture(autouse=True)
def nothing_remembered():
    """What a test changes is rolled back, which no process is told; so each begins without a memory."""
    memory._MEMORIES.clear()


@pytest.fixture
def people(db) -> dict[str, Caller]:
    names = ("owner", "curator", "member", "stranger", "staff")
    return {
        name: Caller(
            User.objects.create_user(f"{name}@x.example", PASSWORD, name=name.title(), is_staff=name == "staff")
        )
        for name in names
    } | {"nobody": Caller()}


@pytest.fixture
def pack(people) -> str:
    """A Tidewrack pack of the owner with a curator and a member; its slug."""
    body = {"name": "Thursday Deep", "game": "tidewrack", "game_version": "2.4.1"}
    loader = {"loader": {"slug": "keel", "version": "0.9.3"}}
    status, made = people["owner"]("POST", "packs", body | loader)
    assert status == 201
    row = Pack.objects.get(slug=made["slug"])
    for name in ("curator", "member"):
        Membership.objects.create(pack=row, user=people[name].user, role=name)
    return made["slug"]


def revision(caller: Caller, pack: str) -> int:
    return caller("GET", f"packs/{pack}/draft")[1]["revision"]


def edit(caller: Caller, pack: str, change: dict, base: int | None = None) -> tuple[int, Any]:
    base = revision(caller, pack) if base is None else base
    return caller("POST", f"packs/{pack}/edits", {"base": base, "edit": change})


def add(caller: Caller, pack: str, *mods: str) -> None:
    preview = caller("POST", f"packs/{pack}/preview-add", {"mods": list(mods)})[1]
    assert edit(caller, pack, preview["edit"])[0] == 201, preview


def publish(caller: Caller, pack: str, version: str) -> tuple[int, Any]:
    body = {"revision": revision(caller, pack), "version": version}
    return caller("POST", f"packs/{pack}/releases", body)


def entries(caller: Caller, pack: str) -> dict[str, str]:
    return {row["mod"]: row["version"] for row in caller("GET", f"packs/{pack}/draft")[1]["entries"]}
