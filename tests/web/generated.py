"""Requests that nobody would send, made from what the pages offer: none may end in a mistake.

The checks send some hundreds; `./aldea requests` as many as one likes, with a seed to do it again.
"""

import random
import re
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from html import unescape
from http import HTTPStatus
from pathlib import Path
from urllib.parse import quote, urlencode

from fastapi.routing import APIRoute
from httpx import Client, Response
from tests.serving import served
from tests.web.conftest import form_token

from aldea.demo.load import load_demo
from aldea.demo.sign_ins import PASSWORD
from aldea.native.engine import load_engine
from aldea.store.cluster import Cluster
from aldea.store.database import Database, ensure_database
from aldea.store.settings import Settings
from aldea.web.api import routes as api
from aldea.web.registry import BENCHES

H = "/h/molino-alto"
ODD = (
    "",
    " ",
    "\x00",
    "a\x00b",
    "a\rb",
    "a\nb",
    "\x1b[31m",
    "\u202e",
    "\ufeff",
    "x" * 81,
    "x" * 5000,
    "é" * 80,
    "0",
    "-0",
    "-1",
    "1.5",
    "1,5",
    "٣",
    "²",
    "0x10",
    "1_000",
    "1e30",
    "-1e30",
    "1e400",
    "NaN",
    "inf",
    "-inf",
    "9" * 60,
    "2147483648",
    "9223372036854775807",
    "9223372036854775808",
    "-9223372036854775809",
    "2025-13-45T99:99",
    "9999-12-31T23:59",
    "0001-01-01T00:00",
    "2025-11-13",
    "12:61",
    "null",
    "true",
    "[]",
    "{}",
    "<script>",
    "' OR 1=1 --",
    "../../etc",
    "%00",
    "%",
    "drying_rh",
    "molino-alto",
    ":",
    "/",
    "//x",
    "?",
    "#",
    ";",
    ",",
    '"',
)
ODD_FILES = (
    b"",
    b"\x00",
    b"\r",
    b"\r\r\r",
    b"t,rh\r1,2\r3,4\r",
    b"\n\n\n",
    b",,,,\n,,,\n",
    b'"',
    b'"a\n',
    b"\xff\xfe\x00",
    b"\xed\xa0\x80",
    b"{}",
    b"[]",
    b"null",
    b'{"format": "aldea-plan/2"}',
    b"1" * 4000,
    b"t;rh\n" * 40,
    b"t,rh\n1e400,NaN\n",
    b"pin,label\n\r1,2,3\n",
    b"\n" + b"," * 3000,
    b"[" * 2000,
    b'{"house": {"name": "' + b"x" * 81 + b'"}}',
)
ODD_JSON = (
    b'{"probe": "drying_rh", "rows": [[1, 2]]}',
    b'{"probe": "\\u0000", "rows": [[1, 2]]}',
    b'{"probe": "drying_rh", "rows": []}',
    b'{"probe": "drying_rh", "rows": [[1e30, 2]]}',
    b'{"probe": "drying_rh", "rows": [[9223372036854775808, 2]]}',
    b'{"probe": "drying_rh", "rows": [[-1, NaN]]}',
    b'{"probe": "drying_rh", "rows": [[1, 1e400], [1, null]]}',
    b'{"probe": 3, "rows": {}}',
)
ODD_KINDS = (
    "application/json",
    "application/x-www-form-urlencoded",
    "multipart/form-data",
    "multipart/form-data; boundary=x",
    "text/plain",
    "",
    ";;;",
)
# What no refusal may show: how Python, Pydantic or a pattern would say it.
OF_THE_INSIDE = re.compile(
    r"Input should|pattern|[Tt]uple|\bGot\b|allowed:|valid (string|number)|form.token|None\b"
    r"|got \S|\bctx\b|[Kk]eyError|'[^' ]*'\]|\\x[0-9a-f]{2}|\\u[0-9a-f]{4}"
)
LEFT_ALONE = ("/sign-out", "/account")  # they would end the session that asks


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """One request."""

    method: str
    path: str
    data: tuple[tuple[str, str], ...] = ()
    file: tuple[str, bytes] | None = None
    body: tuple[str, bytes] | None = None

    def __str__(self) -> str:
        sent = f"{dict(self.data)!r:.400} {self.file!r:.120} {self.body!r:.120}"
        return f"{self.method} {self.path[:200]} {sent}"

    def sent_by(self, client: Client) -> Response:
        """Send it; gives the answer."""
        if self.method == "GET":
            return client.get(self.path)
        if self.body is not None:
            content_type, content = self.body
            named = {"Content-Type": content_type} if content_type else {}
            return client.request(self.method, self.path, content=content, headers=named)
        if self.file is None:
            body = urlencode(self.data)
            kind = {"Content-Type": "application/x-www-form-urlencoded"}
            return client.request(self.method, self.path, content=body, headers=kind)
        name, content = self.file
        files = {name: (content[:20].decode("latin-1"), content)}
        return client.request(self.method, self.path, data=dict(self.data), files=files)


@dataclass(slots=True)
class Offered:
    """What pages offer: addresses with their queries, and forms with their fields."""

    links: set[str] = field(default_factory=set)
    forms: dict[str, dict[str, str]] = field(default_factory=dict)
    files: dict[str, str] = field(default_factory=dict)

    def look_at(self, page: str) -> None:
        """Take in what one page offers."""
        for link in re.findall(r'(?:href|hx-get)="(/[^"#]*)', page):
            if not link.startswith(("/static/", "//")):
                self.links.add(unescape(link))
        for head, body in re.findall(r"<form([^>]*)>(.*?)</form>", page, re.DOTALL):
            action = re.search(r'(?:action|hx-post)="([^"]+)"', head)
            if action is None or 'method="get"' in head or action[1].startswith(LEFT_ALONE):
                continue
            path = unescape(action[1])
            fields = self.forms.setdefault(path, {})
            for tag in re.findall(r"<(?:input|select|textarea)[^>]*>", body):
                name = re.search(r'name="([^"]+)"', tag)
                value = re.search(r'value="([^"]*)"', tag)
                if name and 'type="file"' in tag:
                    self.files[path] = name[1]
                elif name and name[1] != "form_token":
                    fields.setdefault(name[1], unescape(value[1]) if value else "")
            other = re.search(r'hx-post="([^"]+)"', head)
            if other:
                self.forms.setdefault(unescape(other[1]), fields)


def offered(client: Client) -> Offered:
    """Everything that the views of the demo house offer."""
    found = Offered()
    for bench in BENCHES:
        for view in bench.views:
            path = view[1:] if view.startswith("//") else H + view
            found.look_at(client.get(path, follow_redirects=True).text)
    for link in sorted(found.links):
        if not link.endswith((".pdf", ".csv", ".json")):
            found.look_at(client.get(link, follow_redirects=True).text)
    return found


def generated(found: Offered, seed: int, count: int) -> Iterator[Asked]:
    """So many requests, each with one thing or two that are odd."""
    chance = random.Random(seed)
    routes = [
        (min(route.methods or {"GET"}), route.path)
        for router in (*(router for bench in BENCHES for router in bench.routers), api.router)
        for route in router.routes
        if isinstance(route, APIRoute) and not route.path.startswith(LEFT_ALONE)
    ]
    links, forms = sorted(found.links), sorted(found.forms)
    for _ in range(count):
        kind = chance.random()
        if kind < 0.25:
            method, path = chance.choice(routes)
            yield Asked(method=method, path=_odd_path(chance, path), body=_odd_body(chance, method))
        elif kind < 0.45:
            yield Asked(method="GET", path=_odd_query(chance, chance.choice(links)))
        else:
            path = chance.choice(forms)
            yield _odd_form(chance, path, found)


def _odd_body(chance: random.Random, method: str) -> tuple[str, bytes] | None:
    if method == "GET":
        return None
    return chance.choice(ODD_KINDS), chance.choice(ODD_FILES + ODD_JSON)


def _odd_path(chance: random.Random, path: str) -> str:
    def piece(match: re.Match[str]) -> str:
        if match[1] == "slug" and chance.random() < 0.8:
            return "molino-alto"
        known = ("drying_rh", "dehumidifier", "1", "2", "tape")
        return quote(chance.choice(ODD + known)[:2000], safe="") or "-"

    return re.sub(r"\{(\w+)(?::\w+)?\}", piece, path)


def _odd_query(chance: random.Random, link: str) -> str:
    path, _, query = link.partition("?")
    names = re.findall(r"([^&=]+)=", query) or ["probe", "hours", "end", "at", "from", "part"]
    pairs = {name: chance.choice(ODD) for name in chance.sample(names, min(len(names), 2))}
    return f"{path}?{urlencode(pairs)}"


def _odd_form(chance: random.Random, path: str, found: Offered) -> Asked:
    fields = dict(found.forms[path])
    for name in chance.sample(sorted(fields), min(len(fields), chance.choice((1, 1, 2)))):
        if chance.random() < 0.15:
            del fields[name]
        else:
            fields[name] = chance.choice(ODD)
    file = None
    if path in found.files:
        file = (found.files[path], chance.choice(ODD_FILES))
    return Asked(method="POST", path=path, data=tuple(fields.items()), file=file)


def answered(client: Client, seed: int, count: int) -> tuple[Counter[int], list[str]]:
    """How often each status came, and what ended in a mistake of ours, to be sent again."""
    statuses: Counter[int] = Counter()
    failed: list[str] = []
    for asked in generated(offered(client), seed, count):
        answer = asked.sent_by(client)
        statuses[answer.status_code] += 1
        if answer.status_code >= HTTPStatus.INTERNAL_SERVER_ERROR:
            failed.append(f"{answer.status_code} {asked}")
        failed += [f"“{said}” {asked}" for said in refusals(answer) if OF_THE_INSIDE.search(said)]
    return statuses, failed


def refusals(answer: Response) -> list[str]:
    """What an answer refuses, in its words: at fields, above forms, or as a whole page."""
    if not answer.status_code >= HTTPStatus.BAD_REQUEST:
        return []
    if answer.headers.get("content-type", "").startswith("application/"):
        return (
            [str(answer.json().get("detail", ""))]
            if "json" in answer.headers["content-type"]
            else []
        )
    said = re.findall(
        r'<(p|span|section)[^>]*class="(?:fix|errs)[^"]*"[^>]*>(.*?)</\1>', answer.text, re.DOTALL
    )
    return [" ".join(unescape(re.sub(r"<[^>]+>", " ", body)).split()) for _, body in said]


@contextmanager
def signed_in_demo() -> Iterator[Client]:
    """A builder of the demo house, on a server and a database of their own."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        folder.chmod(0o755)
        cluster = Cluster(folder / "cluster", throw_away=True)
        cluster.start()
        try:
            ensure_database(cluster.url())
            database = Database(cluster.url())
            database.migrate()
            load_demo(database)
            with (
                served(database, folder / "uploads") as base,
                Client(base_url=base, timeout=60) as client,
            ):
                token = form_token(client.get("/sign-in").text)
                sent = {"name": "jon", "password": PASSWORD, "form_token": token}
                client.post("/sign-in", data=sent)
                client.headers["x-form-token"] = form_token(client.get(H).text)
                yield client
            database.close()
        finally:
            cluster.stop()


def main() -> None:
    """Send so many requests of a seed; what ended in a mistake is printed and counts."""
    seed, count = int(sys.argv[1]), int(sys.argv[2])
    load_engine(Settings().engine)
    with signed_in_demo() as client:
        statuses, failed = answered(client, seed, count)
    for line in failed:
        print(line)
    said = ", ".join(f"{number} × {status}" for status, number in sorted(statuses.items()))
    print(f"seed {seed}: {said}")
    raise SystemExit(1 if failed else 0)


if __name__ == "__main__":
    main()
