"""Parts to buy: packs, prices, the drawer, and the list as CSV."""

from fastapi import APIRouter, Request, Response

from aldea.core.errors import ConflictError, InputError
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import Stock
from aldea.core.wire.parts import TOOLS, part_lines, total_price
from aldea.formats.tables_csv import parts_csv
from aldea.web.forms import Fields, typed_of
from aldea.web.pages import Bench
from aldea.web.routes.wire_pages import csv_file, keep_and_go, opened, wire_sub_page
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)


def parts_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """What the plan needs, less the drawer, in packs."""
    lines = part_lines(bench.plan)
    return wire_sub_page(
        request,
        state,
        bench,
        "shopping.html",
        "parts",
        status=status,
        lines=lines,
        total=total_price(lines),
        tools=TOOLS,
        currency=bench.plan.house.currency,
        errors=errors or {},
        typed=typed or {},
        refusal=refusal,
    )


@router.get("/parts")
def parts(request: Request, state: State, door: AnyDoor) -> Response:
    """Parts and tools."""
    return parts_page(request, state, opened(state, door))


@router.get("/parts.csv")
def parts_file(state: State, door: AnyDoor) -> Response:
    """The parts list as CSV."""
    text = parts_csv(part_lines(opened(state, door).plan))
    return csv_file(text, f"{door.house.slug}-parts.csv")


@router.post("/parts")
def keep_stock(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Keep packs, prices, drawer and spares of every part."""
    typed = typed_of(form)
    bench = opened(state, door)
    fields = Fields(typed)
    lines = part_lines(bench.plan)
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
        made = replace_stock(old, pack, price, drawer, spares)
        if made != Stock(part=old.part):
            stock.append(made)
    if fields.errors:
        return parts_page(request, state, bench, errors=fields.errors, typed=typed, status=422)
    named = {line.part for line in lines}

    def change(plan: Plan) -> Plan:
        kept = tuple(s for s in plan.stock if s.part not in named)
        return plan.model_copy(update={"stock": (*kept, *stock)})

    try:
        return keep_and_go(state, door, typed, change, "drawer and prices kept", "parts")
    except (InputError, ConflictError) as exc:
        return parts_page(request, state, bench, typed=typed, refusal=exc.sentence, status=409)


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
