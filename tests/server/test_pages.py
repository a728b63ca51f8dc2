"""What the server says outside the endpoints: pages, headers, cookies, the OpenAPI document, settings."""

import stat
import subprocess
import sys

import pytest
import yaml
from django.test import Client

from tests.server.conftest import PASSWORD
from true_convoy.server.access import Who
from true_convoy.server.accounts.models import User
from true_convoy.server.urls import endpoints


@pytest.fixture
def client(db) -> Client:
    return Client()


@pytest.mark.parametrize("path", ["/", "/packs/any/assemble", "/join/K7MPR-3XWTC", "/no/such/page"])
def test_every_page_is_the_application_and_loads_nothing_from_elsewhere(client, path):
    answer = client.get(path)
    assert answer.status_code == 200 and b'<div id="root">' in answer.content
    policy = answer["Content-Security-Policy"]
    assert "default-src 'self'" in policy and "http" not in policy and "script-src" not in policy
    assert "frame-ancestors 'none'" in policy and answer["X-Frame-Options"] == "DENY"
    assert answer["X-Content-Type-Options"] == "nosniff" and answer["Referrer-Policy"] == "same-origin"
    assert answer["Cache-Control"] == "no-cache"
    assert b"//" not in answer.content.replace(b"<!doctype", b""), "no address of another host in the page"


def test_without_a_built_web_part_the_page_says_what_to_do(client, settings, tmp_path):
    settings.WEB_DIST = tmp_path
    answer = client.get("/")
    assert answer.status_code == 503 and answer.content == b"The web part has not been built. Run bin/start."


def test_cookies_are_kept_from_scripts_and_other_sites(client):
    User.objects.create_user("c@x.example", PASSWORD, name="C")
    body = {"email": "c@x.example", "password": PASSWORD}
    answer = client.post("/_allauth/browser/v1/auth/login", body, content_type="application/json")
    cookie = answer.cookies["convoy_session"]
    assert cookie["httponly"] and cookie["samesite"] == "Lax"
    assert client.get("/api/me").cookies["convoy_csrf"]["samesite"] == "Lax"


def test_health_reaches_the_database(client):
    assert client.get("/api/health").json() == {"healthy": True}


def test_unknown_hosts_are_refused(client):
    assert client.get("/api/health", headers={"host": "elsewhere.example"}).status_code == 400


def test_the_openapi_document_names_every_operation_its_types_and_who_may_call(client):
    document = yaml.safe_load(client.get("/api/schema").content)
    operations = {
        (path, method): operation
        for path, methods in document["paths"].items()
        for method, operation in methods.items()
    }
    marked = sum(hasattr(getattr(p.callback.view_class, m, None), "who")
                 for p in endpoints for m in ("get", "post", "put", "delete"))  # fmt: skip
    assert len(operations) == marked
    whos = {who.value for who in Who}
    for where, operation in operations.items():
        said = operation["description"].removeprefix("Who may call: ").removesuffix(".")
        assert said in whos, where
        assert operation["responses"]["default"], where
    schemas = document["components"]["schemas"]
    assert schemas["Draft"]["required"] == list(schemas["Draft"]["properties"])
    assert "versions" not in schemas["PreviewRequest"]["required"]


def test_a_secret_is_made_once_for_its_owner_alone(tmp_path):
    command = [sys.executable, "-c", "from true_convoy.server import settings; print(settings.SECRET_KEY)"]
    environment = {"CONVOY_VAR": str(tmp_path), "PATH": "/usr/bin"}
    made = [
        subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout for _ in range(2)
    ]
    assert made[0] == made[1] and len(made[0].strip()) > 40
    secret = tmp_path / "secrets" / "secret_key"
    assert stat.S_IMODE(secret.stat().st_mode) == 0o600 and stat.S_IMODE(secret.parent.stat().st_mode) == 0o700
    given = subprocess.run(
        command, env=environment | {"CONVOY_SECRET_KEY": "given"}, capture_output=True, text=True, check=True
    )
    assert given.stdout.strip() == "given"
