"""What the writer writes and what it refuses; the file that is committed is what it writes."""

import math
from types import FunctionType

import pytest
from tests.native.one_name import helper
from tests.native.same_name import other

from aldea.core.engine.tables.run import RunTables
from aldea.native.building import SCAN_C
from aldea.native.writer.document import constants_of, kernels, scan_in_c
from aldea.native.writer.kernels import Kernel
from aldea.native.writer.kinds import WriterError

SMALL, LARGE = 7, 2**40


def test_the_committed_scan_is_what_its_source_says():
    """`./aldea engine --write` writes it anew."""
    assert SCAN_C.read_text() == scan_in_c()


def code_of(function: object) -> str:
    assert isinstance(function, FunctionType)
    return "\n".join(Kernel(function).text())


def count_up(run: RunTables, load: int) -> int:
    """Words over it."""
    total = 0
    for k in range(run.plan.loads[load].first, run.plan.loads[load].last):
        # why it is looked at
        if run.now.rules[k].active == 1 and k != SMALL:
            total += 1  # one more
    return total


def test_names_comments_and_constants_of_the_source_stand_in_the_c():
    text = code_of(count_up)
    assert "/* Words over it. */" in text
    assert "static int64_t count_up(const RunTables *run, int64_t load) {" in text
    assert "/* why it is looked at */" in text
    assert "if (run->now.rules[k].active == 1 && k != SMALL) {" in text
    assert "/* one more */" in text


def narrow(run: RunTables, load: int, t_ms: int) -> None:
    """Instants are wide, states narrow, and sums are made wide."""
    now = run.now.loads[load]
    now.on_ms = t_ms + LARGE
    now.state = load + 1
    run.now.rates[0].held = run.now.rates[0].held + run.now.rates[1].held


def test_a_narrow_column_takes_a_wide_number_only_with_a_cast():
    text = code_of(narrow)
    assert "now->on_ms = t_ms + LARGE;" in text
    assert "now->state = (int16_t)(load + 1);" in text
    assert "(int32_t)((int64_t)run->now.rates[0].held + run->now.rates[1].held)" in text


def thirds(run: RunTables, p: int) -> float:
    """Python's own division and remainder, and real numbers only where they are said."""
    half = p // 2 + p % 3
    value = run.now.signals[p].value * half / 3
    return max(value, math.nan) if math.isnan(value) else value


def test_division_is_pythons_and_no_whole_number_becomes_real_unsaid():
    text = code_of(thirds)
    assert "whole_part(p, 2) + remainder_of(p, 3)" in text
    assert "run->now.signals[p].value * (double)half / 3.0" in text
    assert "most_real(value, NAN)" in text


def writes_the_plan(run: RunTables, load: int) -> None:
    """A plan is never written."""
    run.plan.loads[load].first = 1


def gives_a_real_to_a_whole(run: RunTables, p: int) -> None:
    """A value is no state."""
    run.now.loads[p].state = run.now.signals[p].value  # type: ignore[assignment]


def reads_what_it_writes(run: RunTables, a: int) -> int:
    """Both at once would be one after the other in C."""
    b = a
    a, b = b, a
    return a - b


def has_a_list(run: RunTables) -> int:
    """No lists in a scan."""
    found = [1, 2]
    return len(found)


def looks_from_the_end(run: RunTables) -> int:
    """A column that is not there."""
    return run.now.loads[0].nothing  # type: ignore[no-any-return]


def does_not_fit(run: RunTables) -> None:
    """A number that its column cannot hold."""
    run.now.loads[0].state = LARGE


@pytest.mark.parametrize(
    ("function", "why"),
    [
        (writes_the_plan, "is never written"),
        (gives_a_real_to_a_whole, "real is given to int"),
        (reads_what_it_writes, "reads a name of the same line"),
        (has_a_list, "List is not written"),
        (looks_from_the_end, "LoadNow has no nothing"),
        (does_not_fit, "LARGE does not fit"),
    ],
)
def test_what_c_would_do_otherwise_is_refused_with_its_line(function, why):
    with pytest.raises(WriterError, match=rf"test_writer, line \d+: .*{why}"):
        Kernel(function)


def calls_both(run: RunTables) -> int:
    """In Python each module has its own; in one file of C they would be the same."""
    return helper(run) + other(run)


def test_two_functions_of_one_name_are_refused():
    with pytest.raises(WriterError, match="helper is the name of two functions"):
        kernels(calls_both)


def test_every_constant_means_one_number():
    found = constants_of(kernels())
    assert found["NEVER"] == -(2**61)
    assert found["GOOD"] == 0
