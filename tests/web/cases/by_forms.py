"""A house built through the forms of its pages: only what they offer is sent, as they offer it."""

import json
import re
import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from http import HTTPStatus
from xml.etree.ElementTree import Element

import tinyhtml5  # type: ignore[import-untyped]
from httpx import Client

from aldea.core.plan.document import Plan

X = "{http://www.w3.org/1999/xhtml}"
FACTS = {"time_zone": "UTC", "mains_v": "230", "mains_hz": "50"}


@dataclass(slots=True)
class Field:
    """One field as a page shows it: its value, the choices, where another choice asks anew."""

    value: str | None
    options: tuple[str, ...] | None = None
    remade_at: str = ""


@dataclass(slots=True)
class Form:
    """A form with its fields; those of a form that stands by itself by their `form` too."""

    action: str
    fields: dict[str, Field] = field(default_factory=dict)

    def sent(self) -> dict[str, str]:
        """What a browser would send."""
        return {name: f.value for name, f in self.fields.items() if f.value is not None}


def _parsed(page: str) -> Element:
    root: Element = tinyhtml5.parse(page)
    return root


def _field(tag: Element) -> Field | None:
    kind = tag.tag.removeprefix(X)
    if kind == "select":
        options = list(tag.iter(f"{X}option"))
        values = tuple(o.get("value", "".join(o.itertext())) for o in options)
        chosen = [v for o, v in zip(options, values, strict=True) if "selected" in o.attrib]
        first = values[0] if values else None
        return Field(chosen[0] if chosen else first, values, tag.get("hx-post", ""))
    if kind == "textarea":
        return Field("".join(tag.itertext()))
    if kind != "input" or tag.get("type") in ("submit", "file", "button"):
        return None
    if tag.get("type") in ("checkbox", "radio"):
        on = tag.get("value", "on")
        return Field(on if "checked" in tag.attrib else None, (on,))
    return Field(tag.get("value", ""))


def _fields(root: Element) -> Iterator[tuple[Element, str, Field]]:
    for tag in root.iter():
        name = tag.get("name")
        if name and "disabled" not in tag.attrib and (made := _field(tag)) is not None:
            yield tag, name, made


def forms_of(page: str) -> list[Form]:
    """The forms of a page that change something."""
    root = _parsed(page)
    forms = []
    for tag in root.iter(f"{X}form"):
        if tag.get("method", "get").lower() != "post":
            continue
        form = Form(tag.get("action", ""))
        loose = [f for f in _fields(root) if tag.get("id") and f[0].get("form") == tag.get("id")]
        for _, name, made in [*_fields(tag), *loose]:
            known = form.fields.get(name)
            if known is None or (known.value is None and made.value is not None):
                form.fields[name] = made
            if known is not None and known.options and made.options:  # radios of one name
                form.fields[name].options = known.options + made.options
        forms.append(form)
    return forms


@dataclass(slots=True)
class House:
    """A house begun empty, and one person who builds it."""

    client: Client
    home: str

    def page(self, path: str) -> str:
        """One page of the house as it stands."""
        answer = self.client.get(self.home + path, follow_redirects=True)
        assert answer.status_code == HTTPStatus.OK, (path, answer.status_code, answer.text[:400])
        return answer.text

    def form(self, path: str, action: str, holds: Mapping[str, str]) -> Form:
        """The form of a page with this action that carries these values already."""
        forms = [form for form in forms_of(self.page(path)) if form.action.endswith(action)]
        fit = [f for f in forms if holds.items() <= f.sent().items()]
        assert fit, (path, action, dict(holds), [f.sent() for f in forms])
        return fit[0]

    def send(
        self,
        path: str,
        action: str,
        of: Mapping[str, str] | None = None,
        rows: int = 0,
        /,
        **typed: str,
    ) -> str:
        """Fill a form as a person does, field by field, and send it; gives the page after it.

        `rows` is how often its button for one more row is pressed first.
        """
        form = self.form(path, action, of or {})
        for _ in range(rows):
            self._anew(form, f"{form.action.removesuffix('/rule')}/form", {"press": "row"})
        for name, value in typed.items():
            self._type(form, name, value)
        page = self.client.post(form.action, data=form.sent(), follow_redirects=True)
        refused = [
            "".join(tag.itertext()).strip()
            for tag in _parsed(page.text).iter()
            if (tag.get("id") or "").startswith("fix-")
        ]
        assert not refused, (path, typed, refused)
        assert page.status_code == HTTPStatus.OK, (form.action, page.status_code, page.text[:300])
        return page.text

    def _type(self, form: Form, name: str, value: str) -> None:
        assert name in form.fields, (form.action, name, sorted(form.fields))
        told = form.fields[name]
        assert told.options is None or value in told.options, (name, value, told.options)
        told.value = value
        if told.remade_at:
            self._anew(form, told.remade_at, {}, name)

    def _anew(self, form: Form, where: str, pressed: Mapping[str, str], by: str = "") -> None:
        """The fields as the page brings them where a choice or a button asks for others."""
        head = {"HX-Request": "true", **({"HX-Trigger-Name": by} if by else {})}
        answer = self.client.post(where, data={**form.sent(), **pressed}, headers=head)
        assert answer.status_code == HTTPStatus.OK, (where, answer.text[:300])
        stays = {n: f for n, f in form.fields.items() if f.options is None}
        form.fields = {**stays, **{n: f for _, n, f in _fields(_parsed(answer.text))}}

    def rule(self, load: str, kind: str, rows: int = 0, /, **typed: str) -> str:
        """Put a rule of a load in, of a kind of condition."""
        return self.send(f"/rule?load={load}&add={kind}", "/rule/rule", {}, rows, **typed)

    def schedule(self, name: str, start: str, end: str) -> None:
        """A schedule of one window on each day."""
        where = "/rule/house"
        self.send(f"{where}?part=schedule:", where, name=name, w0_start=start, w0_end=end)

    def failsafe(self, load: str, /, **typed: str) -> None:
        """What a load does in failure, its limits and how an override ends."""
        self.send(f"/rule/failsafe?load={load}", "/rule/failsafe", **typed)

    def wire(self) -> None:
        """Relays for each load, as they are proposed, then pins for all."""
        while offered := re.findall(r'name="finding" value="(relays-[^"]+)"', self.page("/wire")):
            self.send("/wire", "/wire/fix", {"finding": offered[0]})
        self.send("/wire", "/wire/assign")
        for _ in range(600):
            if not re.search(r"/wire/assign/\d+\?", self.page("/wire")):
                return
            time.sleep(0.1)

    def put(self, part: str, /, **typed: str) -> None:
        """Put a part in at Lay out."""
        self.send(f"/layout?add={part}", "/layout/part", **typed)

    def change(self, part: str, /, **typed: str) -> None:
        """Change a part that stands at Lay out."""
        self.send(f"/layout?part={part}", "/layout/part", **typed)

    def plan(self) -> Plan:
        """The plan as it is exported."""
        slug = self.home.rsplit("/", 1)[1]
        answer = self.client.get(f"/api/v1/houses/{slug}/plan").json()
        return Plan.model_validate_json(json.dumps(answer["plan"]))


def begin(client: Client, name: str) -> House:
    """A new house with nothing in it."""
    answer = client.post("/houses/new", data={"name": name, **FACTS})
    assert answer.status_code == HTTPStatus.SEE_OTHER, answer.text
    return House(client, str(answer.headers["location"]).removesuffix("/layout"))
