"""The gate: bodies are counted, no answer is bare, and what is no request is told so."""

import json
import socket
from urllib.parse import urlsplit

import pytest
from httpx import Client
from tests.serving import served
from tests.web.conftest import form_token
from tests.web.pages import H

from aldea.demo.sign_ins import PASSWORD
from aldea.store.database import Database
from aldea.web.app import MOST_BODY_BYTES
from aldea.web.shell.gate import HEADERS

TOO_MUCH = b"a=" + b"x" * (MOST_BODY_BYTES + 1)
RUN = f"{H}/record/publish"


def raw(client: Client, request: bytes) -> str:
    """What the server answers to bytes that no well-behaved client sends."""
    address = urlsplit(str(client.base_url))
    with socket.create_connection((address.hostname, address.port), timeout=10) as wire:
        wire.sendall(request)
        answer = b""
        while block := wire.recv(65536):
            answer += block
    return answer.decode(errors="replace")


def chunked(client: Client, path: str, blocks: int, block: bytes, cookie: str = "") -> str:
    """Send a body without a length, block by block; stop where the server answers."""
    address = urlsplit(str(client.base_url))
    head = (
        f"POST {path} HTTP/1.1\r\nHost: {address.netloc}\r\nTransfer-Encoding: chunked\r\n"
        f"Content-Type: application/x-www-form-urlencoded\r\n{cookie}Connection: close\r\n\r\n"
    )
    with socket.create_connection((address.hostname, address.port), timeout=10) as wire:
        wire.sendall(head.encode())
        try:
            for _ in range(blocks):
                wire.sendall(f"{len(block):x}\r\n".encode() + block + b"\r\n")
            wire.sendall(b"0\r\n\r\n")
        except OSError:
            pass  # the server has answered and reads no more
        answer = b""
        try:
            while part := wire.recv(65536):
                answer += part
        except OSError:
            pass
    return answer.decode(errors="replace")


def cookies(client: Client) -> str:
    pairs = "; ".join(f"{cookie.name}={cookie.value}" for cookie in client.cookies.jar)
    return f"Cookie: {pairs}\r\nX-Form-Token: {client.headers['x-form-token']}\r\n"


def test_a_body_with_a_length_is_refused_before_it_is_read(signed):
    answer = signed("jon").post(RUN, content=TOO_MUCH)
    assert answer.status_code == 413
    assert "That is too much at once." in answer.text
    for name, value in HEADERS.items():
        assert answer.headers[name] == value


def test_a_body_without_a_length_is_counted_as_it_comes(signed):
    client = signed("jon")
    answer = chunked(client, RUN, 40, b"a" * 65_536, cookies(client))
    assert answer.startswith("HTTP/1.1 413")
    assert "That is too much at once." in answer
    assert "content-security-policy" in answer.lower()


def test_what_just_fits_is_read(signed):
    answer = signed("jon").post(RUN, content=b"reason=" + b"x" * (MOST_BODY_BYTES - 7))
    assert answer.status_code != 413


def test_a_stranger_is_answered_before_his_body_is_read(client):
    client.cookies.clear()
    address = urlsplit(str(client.base_url))
    head = (
        f"POST {RUN} HTTP/1.1\r\nHost: {address.netloc}\r\nContent-Length: 900000\r\n"
        "Connection: close\r\n\r\n"
    )
    with socket.create_connection((address.hostname, address.port), timeout=5) as wire:
        wire.sendall(head.encode())  # and nothing of the body
        assert wire.recv(65536).startswith(b"HTTP/1.1 303")


def test_a_stranger_s_json_is_not_read_either(client):
    client.cookies.clear()
    address = urlsplit(str(client.base_url))
    head = (
        f"POST /api/v1/houses/molino-alto/readings HTTP/1.1\r\nHost: {address.netloc}\r\n"
        "Content-Type: application/json\r\nContent-Length: 900000\r\nConnection: close\r\n\r\n"
    )
    with socket.create_connection((address.hostname, address.port), timeout=5) as wire:
        wire.sendall(head.encode())
        assert wire.recv(65536).startswith(b"HTTP/1.1 401")


def test_a_log_may_be_larger_than_a_form(signed):
    text = b"t,rh\n" + b"1760000000,50\n" * 100_000
    assert len(text) > MOST_BODY_BYTES
    answer = signed("jon").post(
        f"{H}/record/readings", data={"probe": "drying_rh"}, files={"log": ("x.csv", text)}
    )
    assert answer.status_code == 303


@pytest.mark.parametrize(
    "path", [H, "/sign-in", "/static/mark.svg", "/schema/plan.json", "/nowhere"]
)
def test_head_says_what_get_would_without_its_body(signed, path):
    client = signed("jon")
    asked, head = client.get(path), client.head(path)
    assert head.status_code == asked.status_code
    assert head.content == b""
    assert head.headers["content-type"] == asked.headers["content-type"]


@pytest.mark.parametrize(
    ("request_line", "host", "status"),
    [
        ("GET /sign-in", "", 400),
        ("GET /sign-in", "Host: a b\r\n", 400),
        ("GET /sign-in", "Host: [::1\r\n", 400),
        ("GET /sign-in", "Host: x/../y\r\n", 400),
        ("GET /sign-in", "Host: 127.0.0.1:1\r\n", 200),
        ("GET /sign-in", "Host: [::1]:8080\r\n", 200),
        ("GET /%00", "Host: aldea\r\n", 404),
        ("GET /h/a%00b", "Host: aldea\r\n", 404),
        ("GET /static/%00", "Host: aldea\r\n", 404),
        ("GET /static/..%2f..%2fapp.py", "Host: aldea\r\n", 404),
        ("GET /h/%0d%0aX:%20y", "Host: aldea\r\n", 404),
        ("DELETE /sign-in", "Host: aldea\r\n", 405),
    ],
)
def test_what_is_no_request_gets_its_proper_answer(client, request_line, host, status):
    answer = raw(client, f"{request_line} HTTP/1.1\r\n{host}Connection: close\r\n\r\n".encode())
    assert answer.startswith(f"HTTP/1.1 {status}"), answer[:200]


def test_a_mistake_of_ours_is_a_page_that_says_what_to_do(module_database, tmp_path, monkeypatch):
    from aldea.web.benches.sign_in import routes

    def broken(*_args: object, **_kept: object) -> None:
        raise RuntimeError("secret inside")

    monkeypatch.setattr(routes, "_inside", broken)
    with served(module_database, tmp_path) as base, Client(base_url=base) as client:
        answer = client.get("/sign-in")
    assert answer.status_code == 500
    assert "try again" in answer.text
    assert "secret inside" not in answer.text
    for name, value in HEADERS.items():
        assert answer.headers[name] == value


def test_a_database_that_is_gone_has_a_page_that_looks_again(database: Database, tmp_path):
    with served(database, tmp_path) as base, Client(base_url=base, timeout=30) as client:
        token = form_token(client.get("/sign-in").text)
        sent = {"name": "jon", "password": PASSWORD, "form_token": token}
        assert client.post("/sign-in", data=sent).status_code == 303
        assert client.get(H).status_code == 200
        name = database.url.database
        admin = Database(str(database.url.set(database="postgres").render_as_string(False)))
        engine = admin.engine.execution_options(isolation_level="AUTOCOMMIT")
        with engine.connect() as connection:
            connection.exec_driver_sql(f'ALTER DATABASE "{name}" WITH ALLOW_CONNECTIONS false')
            connection.exec_driver_sql(
                f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{name}'"
            )
            gone, data = client.get(H), client.get("/api/v1/houses/molino-alto/plan")
            connection.exec_driver_sql(f'ALTER DATABASE "{name}" WITH ALLOW_CONNECTIONS true')
        admin.close()
        assert gone.status_code == data.status_code == 503
        assert gone.headers["retry-after"] == data.headers["retry-after"]
        assert "The database does not answer." in gone.text
        assert 'data-reload-s="5"' in gone.text
        assert json.loads(data.text)["status"] == 503
        assert client.get(H).status_code == 200


def test_behind_tls_the_browser_is_told_to_stay_with_it(client):
    client.cookies.clear()
    plain = client.get("/sign-in")
    behind = client.get("/sign-in", headers={"X-Forwarded-Proto": "https"})
    assert "strict-transport-security" not in plain.headers
    assert behind.headers["strict-transport-security"] == "max-age=31536000"
    assert "Secure" in behind.headers["set-cookie"]
