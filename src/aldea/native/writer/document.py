"""The whole scan as one file of C: rows, tables, constants, then every function it uses."""

import hashlib
import inspect
import sys
from collections.abc import Callable, Iterator
from types import FunctionType, ModuleType
from typing import cast

from aldea.core.engine.scan.loop import scan_loop
from aldea.core.engine.tables.run import rows_of_tables
from aldea.native.writer.declarations import (
    constant_lines,
    group_lines,
    row_lines,
    run_lines,
    way_in_lines,
)
from aldea.native.writer.kernels import Kernel
from aldea.native.writer.kinds import GROUPS, WriterError
from aldea.native.writer.text import block_comment, wrapped

HELPERS = """\
/* Division as the scan means it: the whole part lies below, the remainder has the divisor's sign.
   Nobody divides by nothing: what divides is checked where it is made. */
static inline int64_t remainder_of(int64_t a, int64_t b) {
  const int64_t r = a % b;
  return r != 0 && ((r < 0) != (b < 0)) ? r + b : r;
}
static inline int64_t whole_part(int64_t a, int64_t b) { return (a - remainder_of(a, b)) / b; }
static inline int64_t least(int64_t a, int64_t b) { return b < a ? b : a; }
static inline int64_t most(int64_t a, int64_t b) { return b > a ? b : a; }
/* Of a number and NaN the first stays, as in the scan's source; fmin would take the number. */
static inline double least_real(double a, double b) { return b < a ? b : a; }
static inline double most_real(double a, double b) { return b > a ? b : a; }\
"""
ORIGIN = "sources: "  # behind it stands the digest, in the first lines of the file


def kernels(entry: Callable[..., object] = scan_loop) -> dict[str, Kernel]:
    """The entry and every function below it, each once; two of one name are refused."""
    by_name: dict[str, Kernel] = {}
    todo = [cast(FunctionType, entry)]
    while todo:
        function = todo.pop()
        known = by_name.get(function.__name__)
        if known is None:
            kernel = by_name[function.__name__] = Kernel(function)
            todo += kernel.names.calls.values()
        elif known.function is not function:
            raise WriterError(
                f"{function.__name__} is the name of two functions: of {function.__module__} and "
                f"of {known.function.__module__}"
            )
    return by_name


def constants_of(by_name: dict[str, Kernel]) -> dict[str, int | float]:
    """Every number with a name that they use; one name means one number."""
    constants: dict[str, int | float] = {}
    for kernel in by_name.values():
        for name, value in kernel.names.constants.items():
            if constants.setdefault(name, value) != value:
                raise WriterError(f"{name} is {constants[name]} in one module, {value} in another")
    return constants


def source_files(by_name: dict[str, Kernel]) -> list[str]:
    """The modules that the text is made from: those of the functions, of rows and constants."""
    modules: dict[str, None] = {}
    for kernel in by_name.values():
        modules[kernel.function.__module__] = None
    for row in rows_of_tables():
        modules[row.__module__] = None
    for group in GROUPS.values():
        modules[group.__module__] = None
    modules.update(dict.fromkeys(sorted(_own_modules())))
    return sorted(modules)


def _own_modules() -> Iterator[str]:
    own = __name__.rpartition(".")[0]
    yield from (name for name in sys.modules if name.startswith(f"{own}."))
    yield "aldea.core.engine.layout"
    yield "aldea.core.physics.moist_air"


def digest_of(modules: list[str]) -> str:
    """A digest of the sources of some modules."""
    digest = hashlib.sha256()
    for name in modules:
        digest.update(inspect.getsource(sys.modules[name]).encode())
    return digest.hexdigest()


def scan_in_c() -> str:
    """The text of `scan.c`."""
    by_name = kernels()
    by_module: dict[str, list[Kernel]] = {}
    for kernel in by_name.values():
        by_module.setdefault(kernel.function.__module__, []).append(kernel)
    lines = [
        "/* The scan of a house, written out from its source in core/engine/scan: do not edit.",
        "   `./aldea engine --write` writes it anew.",
        f"   {ORIGIN}{digest_of(source_files(by_name))} */",
        "",
        "#include <math.h>",
        "#include <stdbool.h>",
        "#include <stddef.h>",
        "#include <stdint.h>",
        "",
        *constant_lines(constants_of(by_name)),
        "",
        *HELPERS.splitlines(),
        "",
        "/* --- rows */",
    ]
    for row in rows_of_tables():
        lines += ["", *row_lines(row)]
    lines += ["", "/* --- tables */"]
    for group in GROUPS.values():
        lines += ["", *group_lines(group)]
    lines += ["", *run_lines(), "", "/* --- the scan */", ""]
    ordered = sorted(by_module.items(), key=lambda pair: pair[0])
    lines += [f"{kernel.head()};" for _, own in ordered for kernel in _in_order(own)]
    for name, own in ordered:
        lines += ["", *block_comment(f"--- {_title(sys.modules[name])}")]
        for kernel in _in_order(own):
            lines += ["", *kernel.text()]
    lines += ["", *way_in_lines(scan_loop.__name__)]
    return "\n".join(part for line in lines for part in wrapped(line)) + "\n"


def _in_order(own: list[Kernel]) -> list[Kernel]:
    return sorted(own, key=lambda kernel: kernel.function.__code__.co_firstlineno)


def _title(module: ModuleType) -> str:
    return (module.__doc__ or module.__name__).strip().splitlines()[0]
