"""Reading pages of the demo house: addresses, versions, tables, fixes, the plan behind them."""

import re
from typing import Any

from aldea.core.calibrate.pairs import Pair
from aldea.core.plan.document import Plan
from aldea.store.accounts import Account
from aldea.store.calibrations import open_pairs
from aldea.store.database import Database
from aldea.store.drafts import read_draft
from aldea.store.houses import house_for

H = "/h/molino-alto"


def draft(client: Any) -> dict[str, Any]:
    """The draft with its version, from the interface for programs."""
    found: dict[str, Any] = client.get("/api/v1/houses/molino-alto/plan").json()
    return found


def house_of(database: Database) -> int:
    """The demo house's number in the store."""
    with database.begin() as connection:
        house, _ = house_for(connection, "molino-alto", Account(id=1, name="jon"))
    return house.id


def plan_of(database: Database) -> Plan:
    """The draft's plan, from the store."""
    with database.begin() as connection:
        return read_draft(connection, house_of(database)).plan


def taken_of(database: Database, probe: str) -> list[Pair]:
    """The pairs taken of a probe and not withdrawn."""
    with database.begin() as connection:
        return [row.pair for row in open_pairs(connection, house_of(database), probe)]


def found_in(pattern: str, text: str) -> str:
    """The first group of a pattern that must be in a text."""
    found = re.search(pattern, text, re.DOTALL)
    assert found, f"{pattern!r} is not in {text[:300]!r}"
    return found[1]


def version_of(page: str) -> str:
    """The version of the draft that a page's forms are for."""
    return found_in(r'name="version" value="(\d+)"', page)


def sign_form(client: Any, probe: str, params: dict[str, str] | None = None) -> dict[str, str]:
    """The fields of a probe's sign form, as the page that asks carries them."""
    page = client.get(f"{H}/calibrate/{probe}", params=params).text
    form = found_in(r'<details[^>]*id="sign".*?<form(.*?)</form>', page)
    return dict(re.findall(r'name="([a-z_0-9]+)" value="([^"]*)"', form))


def fix_of(page: str, field: str) -> str:
    """What is said at a refused field."""
    return plain(found_in(rf'id="fix-{field}"[^>]*>([^<]*)<', page))


def plain(text: str) -> str:
    """A page's words alone."""
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", text)).strip()


def table_of(page: str, table_id: str) -> list[list[str]]:
    """The cells of a table's body, row by row."""
    body = found_in(rf'id="{table_id}".*?<tbody>(.*?)</tbody>', page)
    rows = re.findall(r"<tr.*?</tr>", body, re.DOTALL)
    return [
        [plain(cell) for cell in re.findall(r"<t[dh].*?</t[dh]>", row, re.DOTALL)] for row in rows
    ]


def facts_of(page: str) -> dict[str, str]:
    """The facts of a recordings bench."""
    listed = found_in(r'<dl id="facts">(.*?)</dl>', page)
    rows = re.findall(r"<dt[^>]*>(.*?)</dt>\s*<dd[^>]*>(.*?)</dd>", listed, re.DOTALL)
    return {plain(label): plain(value) for label, value in rows}
