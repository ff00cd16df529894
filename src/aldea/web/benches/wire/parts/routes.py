"""Parts to buy: packs, prices, the drawer, and the list as CSV."""

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import ConflictError, InputError
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Stock
from aldea.core.wiring.parts import part_lines, tools
from aldea.formats.tables_csv import parts_csv
from aldea.web.benches.wire.pages import keep_and_go, wire_sub_page
from aldea.web.benches.wire.parts.view import part_groups, parts_verdict
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.files import csv_file
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import OpenHouse, open_house_of
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)


def parts_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """What the plan needs, less the drawer, in packs."""
    lines = part_lines(opened.plan)
    return wire_sub_page(
        request,
        state,
        opened,
        "wire/parts/parts.html",
        "parts",
        status=status,
        verdict_words=parts_verdict(lines, opened.plan.house.currency),
        groups=part_groups(lines),
        tools=tools(opened.plan),
        errors=errors or {},
        typed=typed or {},
        refusal=refusal,
    )


@router.get("/parts")
def parts(request: Request, state: State, access: MemberAccess) -> Response:
    """Parts and tools."""
    return parts_page(request, state, open_house_of(state, access))


@router.get("/parts.csv")
def parts_file(state: State, access: MemberAccess) -> Response:
    """The parts list as CSV."""
    text = parts_csv(part_lines(open_house_of(state, access).plan))
    return csv_file(text, f"{access.house.slug}-parts.csv")


@router.post("/parts")
def keep_stock(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep packs, prices, drawer and spares of every part."""
    typed = typed_of(form)
    opened = open_house_of(state, access)
    fields = Fields(typed)
    lines = part_lines(opened.plan)
    stock = []
    for index, line in enumerate(lines):
        old = line.stock
        pack = fields.number(f"pack-{index}", low=1, high=10_000)
        price = fields.number(f"price-{index}", low=0, high=100_000)
        drawer = fields.number(f"drawer-{index}", low=0, high=100_000)
        spares = fields.number(f"spares-{index}", low=0, high=1000)
        if any(
            f"{name}-{index}" in fields.errors for name in ("pack", "price", "drawer", "spares")
        ):
            continue
        changed = replace_stock(old, pack, price, drawer, spares)
        if changed != Stock(part=old.part):
            stock.append(changed)
    if fields.errors:
        return parts_page(request, state, opened, errors=fields.errors, typed=typed, status=422)
    named = {line.part for line in lines}

    def change(plan: Plan) -> Plan:
        kept = tuple(s for s in plan.stock if s.part not in named)
        return plan.model_copy(update={"stock": (*kept, *stock)})

    try:
        return keep_and_go(state, access, typed, change, "drawer and prices kept", "parts")
    except (InputError, ConflictError) as exc:
        return parts_page(request, state, opened, typed=typed, refusal=exc.sentence, status=409)


def replace_stock(old: Stock, pack: float, price: float, drawer: float, spares: float) -> Stock:
    """What was typed of a part's stock."""
    return old.model_copy(
        update={
            "pack": int(pack),
            "pack_price": price,
            "in_drawer": drawer,
            "spares": int(spares),
        }
    )
