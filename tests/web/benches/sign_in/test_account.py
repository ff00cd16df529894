"""Signing in by the page: words for every refusal, another password, sessions ended."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import pytest
from httpx import Client, Response
from tests.serving import served
from tests.web.conftest import form_token
from tests.web.pages import H

from aldea.demo.sign_ins import PASSWORD


@pytest.fixture
def base(database, tmp_path):
    """A server of one's own: passwords are changed on it."""
    with served(database, tmp_path) as address:
        yield address


@dataclass(frozen=True, slots=True)
class Entered:
    """Somebody who tried to sign in, and what was answered."""

    client: Client
    answer: Response


@pytest.fixture
def enter(base) -> Iterator[Callable[[str, str], Entered]]:
    """Try to sign in, each time by a browser of its own."""
    opened: list[Client] = []

    def entered(name: str, password: str) -> Entered:
        client = Client(base_url=base, timeout=30)
        opened.append(client)
        token = form_token(client.get("/sign-in").text)
        sent = {"name": name, "password": password, "form_token": token}
        answer = client.post("/sign-in", data=sent)
        if answer.status_code == 303:
            client.headers["x-form-token"] = form_token(client.get("/account").text)
        return Entered(client, answer)

    yield entered
    for client in opened:
        client.close()


def test_another_password_ends_every_other_session(enter):
    here, there = (enter("ines", PASSWORD).client for _ in range(2))
    assert "other browser" in here.get("/account").text
    new = "a long enough one"
    for old, first, second, said in (
        ("wrong", new, new, "fix-old"),
        (PASSWORD, "short", "short", "fix-new"),
        (PASSWORD, new, new + "!", "fix-repeated"),
    ):
        answer = here.post("/account/password", data={"old": old, "new": first, "repeated": second})
        assert answer.status_code == 422
        assert f'id="{said}"' in answer.text
        assert new not in answer.text, "a password is never sent back"
    sent = {"old": PASSWORD, "new": new, "repeated": new}
    assert here.post("/account/password", data=sent).status_code == 303
    assert "every other browser is signed out" in here.get("/account?done=password").text
    assert here.get(H).status_code == 200
    assert there.get(H).status_code == 303
    assert enter("ines", PASSWORD).answer.status_code == 422
    assert enter("ines", new).answer.status_code == 303


def test_the_other_sessions_are_ended_by_a_press(enter):
    here, there = (enter("guest", PASSWORD).client for _ in range(2))
    assert here.post("/account/others").status_code == 303
    assert there.get(H).status_code == 303
    assert "Here alone." in here.get("/account").text


def test_wrong_tries_are_told_to_wait_and_for_how_long(enter):
    first = [enter("jon", "wrong").answer.status_code for _ in range(3)]
    assert first == [422, 422, 422]
    # Where a try itself takes longer than the wait before it, the next wait is twice as long.
    late = next(
        answer
        for answer in (enter("jon", "wrong").answer for _ in range(8))
        if answer.status_code != 422
    )
    assert late.status_code == 429
    assert int(late.headers["retry-after"]) >= 1
    assert "Wait " in late.text
    assert 'value="jon"' in late.text, "the name that was typed stays"


def test_many_at_once_are_counted_one_by_one_and_others_are_answered(enter):
    """Twelve tries in one moment; a page for somebody else comes all the while."""
    inside = enter("ines", PASSWORD).client
    with ThreadPoolExecutor(13) as pool:
        tries = [pool.submit(enter, "jon", "wrong") for _ in range(12)]
        page = pool.submit(inside.get, H)
        statuses = sorted(done.result().answer.status_code for done in tries)
        assert page.result().status_code == 200
    assert statuses.count(422) <= 4
    assert set(statuses) <= {422, 429}


@pytest.mark.parametrize(
    ("name", "password"),
    [("nobody", PASSWORD), ("jon\x00", PASSWORD), ("x" * 80, "y"), ("jon", "x" * 200)],
)
def test_whoever_it_is_not_is_told_the_same(enter, name, password):
    answer = enter(name, password).answer
    assert answer.status_code == 422
    assert "Name or password is not right." in answer.text


def test_a_path_to_elsewhere_leads_nowhere_else(base):
    for path in ("//evil", "https://evil", "/\\evil", "/\nevil", "javascript:x"):
        with Client(base_url=base) as client:
            token = form_token(client.get("/sign-in", params={"next": path}).text)
            sent = {"name": "jon", "password": PASSWORD, "form_token": token, "next_path": path}
            assert client.post("/sign-in", data=sent).headers["location"] == "/"
