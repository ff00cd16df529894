"""The search page: what is found leads to a page that is there; its list comes alone."""

import re
from html import unescape

import pytest
from tests.web.pages import H, plain

from aldea.web.benches.search.routes import PAGES


@pytest.mark.parametrize("query", ["a", "io", "drying", "board", "night", "on"])
def test_every_line_leads_to_a_page(signed, query):
    client = signed("guest")
    page = client.get(f"{H}/search", params={"q": query}).text
    links = re.findall(r'<li><a href="([^"#]+)', page)
    assert links
    for link in dict.fromkeys(links):
        assert client.get(unescape(link)).status_code in (200, 303), link


@pytest.mark.parametrize(("name", "path", "_more"), PAGES)
def test_every_page_of_the_list_is_there_and_found_by_its_name(signed, name, path, _more):
    client = signed("guest")
    assert client.get(f"{H}{path}").status_code in (200, 303)
    page = client.get(f"{H}/search", params={"q": name}).text
    assert f'href="{H}{path}"' in page


@pytest.mark.parametrize("query", ["zzzz", "<script>", "\x00", "§§", "a" * 4000, ""])
def test_what_is_not_found_is_told(signed, query):
    answer = signed("guest").get(f"{H}/search", params={"q": query}, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    assert "<html" not in answer.text
    assert "<script>" not in answer.text
    assert "Nothing has" in plain(answer.text) or "Enter a name" in plain(answer.text)
