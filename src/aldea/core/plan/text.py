"""Plan document to bytes and back: one canonical text, its SHA-256, its JSON Schema."""

import hashlib
import json
from typing import Any

from pydantic import ValidationError

from aldea.core.base.errors import PlanError
from aldea.core.base.memo import per_plan
from aldea.core.base.unfit import unfit
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.version_1 import FORMAT_1, from_version_1

FORMAT = "aldea-plan/2"
MAX_BYTES = 8_000_000


@per_plan
def plan_text(plan: Plan) -> str:
    """The canonical JSON text: keys in the order of the schema, two spaces, a last newline."""
    return json.dumps(plan.model_dump(mode="json"), ensure_ascii=False, indent=2) + "\n"


def plan_sha256(text: str) -> str:
    """SHA-256 of the canonical text, in hexadecimal."""
    return hashlib.sha256(text.encode()).hexdigest()


def plan_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the document."""
    schema = Plan.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = FORMAT
    return schema


def read_plan(raw: bytes | str) -> Plan:
    """Read a plan file whole, or refuse it whole; one of version 1 is converted.

    Raises
    ------
    PlanError
        With the JSON path of the first thing that is wrong: not JSON, another version, an unknown
        key, a wrong unit or type, a part that does not fit the others.
    """
    if len(raw) > MAX_BYTES:
        raise PlanError("/", got=f"{len(raw)} bytes", allowed=f"up to {MAX_BYTES} bytes")
    data = _decoded(raw)
    if data.get("format") == FORMAT_1:
        data = from_version_1(data)
    version = data.get("format")
    if version != FORMAT:
        raise PlanError(
            "/format",
            got=repr(version) if "format" in data else "nothing",
            allowed=repr(FORMAT),
            fix="This Aldea reads versions 1 and 2; export the plan from one that writes them.",
        )
    try:
        # JSON has one kind of number and lists for tuples: strictness is kept, arrays are taken.
        plan = Plan.model_validate_json(json.dumps(data))
    except ValidationError as exc:
        raise _first_problem(exc) from exc
    check_plan(plan)
    return plan


def _decoded(raw: bytes | str) -> dict[str, Any]:
    try:
        data = json.loads(raw)
    except UnicodeDecodeError as exc:
        raise PlanError(
            "/", got=f"a byte that is not UTF-8 at {exc.start}", allowed="JSON text in UTF-8"
        ) from exc
    except json.JSONDecodeError as exc:
        raise PlanError(
            f"line {exc.lineno}, column {exc.colno}",
            got=f"no JSON ({exc.msg.lower()})",
            allowed="JSON text",
        ) from exc
    except RecursionError as exc:
        raise PlanError("/", got="nesting without end", allowed="a plan document") from exc
    if not isinstance(data, dict):
        raise PlanError("/", got="another kind of JSON", allowed="a JSON object")
    return data


def _first_problem(exc: ValidationError) -> PlanError:
    first, *others = unfit(exc.errors(include_url=False))
    fix = f"{len(others)} more of this kind follow." if others else ""
    return PlanError("/" + "/".join(first.steps), got=first.got, allowed=first.allowed, fix=fix)
