"""A server of the demo house in this process, and people signed in to it."""

import re
from collections.abc import Callable, Iterator
from http import HTTPStatus

import pytest
from httpx import Client, Cookies

from aldea.demo.sign_ins import PASSWORD

SignIn = Callable[[str], Client]


@pytest.fixture(scope="module")
def client(base: str) -> Iterator[Client]:
    """Nobody signed in yet; the engine is compiled."""
    with Client(base_url=base, timeout=30) as made:
        yield made


def form_token(page: str) -> str:
    """The form token of a page."""
    found = re.search(r'name="form_token" value="([^"]+)"', page)
    assert found, page[:300]
    return found[1]


@pytest.fixture(scope="module")
def sessions() -> dict[str, Cookies]:
    """The cookies of those who signed in at the server of the module."""
    return {}


@pytest.fixture
def signed(client: Client, sessions: dict[str, Cookies]) -> SignIn:
    """Sign somebody in; the token goes along with every change from then on.

    Who signed in before comes with that session, as a browser would, while it lasts.
    """

    def enter(name: str) -> Client:
        client.cookies.clear()
        client.headers.pop("x-form-token", None)
        if name in sessions:
            client.cookies.update(sessions[name])
        page = client.get("/account")
        if page.status_code != HTTPStatus.OK:
            client.cookies.clear()
            token = form_token(client.get("/sign-in").text)
            answer = client.post(
                "/sign-in", data={"name": name, "password": PASSWORD, "form_token": token}
            )
            assert answer.status_code == HTTPStatus.SEE_OTHER, answer.text
            sessions[name] = Cookies(client.cookies)
            page = client.get("/account")
        client.headers["x-form-token"] = form_token(page.text)
        return client

    return enter
