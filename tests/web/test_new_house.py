"""An empty house: no page of it is missing, however one comes to it, and six begin at once."""

import re
from concurrent.futures import ThreadPoolExecutor

import pytest
from httpx import Client

from aldea.web.registry import BENCHES
from aldea.web.shell.bench import doorways

FACTS = {"time_zone": "Europe/Madrid", "mains_v": "230", "mains_hz": "50"}


def begun(client: Client, name: str) -> str:
    """A new empty house; gives its address."""
    answer = client.post("/houses/new", data={"name": name, **FACTS})
    assert answer.status_code == 303, answer.text
    return str(answer.headers["location"]).removesuffix("/layout")


def test_every_page_that_leads_from_a_new_house_is_there(signed):
    client = signed("jon")
    house = begun(client, "Molino Nuevo")
    todo = {house, *(f"{house}{door.path}" for door in doorways(BENCHES))}
    seen: set[str] = set()
    while todo:
        path = todo.pop()
        seen.add(path)
        answer = client.get(path, follow_redirects=True)
        assert answer.status_code == 200, (path, answer.status_code)
        if "text/html" in answer.headers["content-type"]:
            links = re.findall(r'(?:href|hx-get)="(/[^"#]*)', answer.text)
            todo |= {
                link.replace("&amp;", "&")
                for link in links
                if link.startswith(house) and not link.startswith("//")
            } - seen
    assert len(seen) > 20
    assert "No working load follows a band yet." in client.get(f"{house}/tune").text


def test_six_people_begin_a_house_of_one_name_at_once(signed):
    client = signed("jon")
    with ThreadPoolExecutor(6) as pool:
        houses = list(pool.map(lambda _: begun(client, "Molino Seis"), range(6)))
    assert sorted(houses) == ["/h/molino-seis", *(f"/h/molino-seis-{n}" for n in range(2, 7))]


@pytest.mark.parametrize("page", ["", "/layout", "/wire", "/tune", "/rule", "/rule/failsafe"])
def test_an_empty_house_shows_what_each_page_will_look_like_marked_as_an_example(signed, page):
    """With a button to where it is got; and no page says that something holds."""
    client = signed("jon")
    home = begun(client, f"Shed {page.replace('/', ' ')}")
    answer = client.get(home + page, follow_redirects=True)
    assert answer.status_code == 200
    assert "<figcaption>An example: " in answer.text
    empty = answer.text.split('class="empty')[1]
    assert 'class="btn' in empty.split("<figure")[0]
    assert 'aria-label="Holds"' not in answer.text
