"""The one wrapper round the compiler, and the way back to plain Python.

No fastmath: it makes `isnan(nan)` false. Reference counting is off in the kernels: they allocate
nothing, and counting took three quarters of the time. The cache folder is NUMBA_CACHE_DIR.
"""

from collections.abc import Callable
from types import FunctionType
from typing import Any, ParamSpec, TypeVar, cast

import numba
from numba.core.compiler import CompilerBase
from numba.core.compiler_machinery import PassManager
from numba.core.typed_passes import (
    AnnotateTypes,
    IRLegalization,
    NativeLowering,
    NoPythonBackend,
    NopythonTypeInference,
    PreLowerStripPhis,
)
from numba.core.untyped_passes import FixupArgs, IRProcessing, ReconstructSSA, TranslateByteCode

from aldea.core.base.jit_library import GiveEntryLibrary, GiveKernelLibrary

P = ParamSpec("P")
R = TypeVar("R")


class ShortWay(CompilerBase):
    """The compiler without what a scan has none of: closures, lists, raises, array expressions.

    Each pass looks at every statement of every kernel.
    """

    library: type = GiveKernelLibrary

    def define_pipelines(self) -> list[PassManager]:
        """The passes in their order."""
        short = PassManager("aldea")
        short.add_pass(TranslateByteCode, "analyzing bytecode")
        short.add_pass(FixupArgs, "fix up args")
        short.add_pass(IRProcessing, "processing IR")
        short.add_pass(self.library, "where it is kept")
        short.add_pass(ReconstructSSA, "ssa")
        short.add_pass(NopythonTypeInference, "types")
        short.add_pass(PreLowerStripPhis, "remove phis nodes")
        short.add_pass(IRLegalization, "legal before lowering")
        short.add_pass(AnnotateTypes, "annotate types")
        short.add_pass(NativeLowering, "lowering")
        short.add_pass(NoPythonBackend, "backend")
        short.finalize()
        return [short]


class ShortWayIn(ShortWay):
    """The same for what Python calls."""

    library = GiveEntryLibrary


OPTIONS: dict[str, Any] = {"nogil": True, "error_model": "numpy", "_nrt": False}
# What only compiled code calls needs no way in from Python.
WITHIN: dict[str, Any] = {
    "no_cpython_wrapper": True,
    "no_cfunc_wrapper": True,
    "pipeline_class": ShortWay,
}


def entry(function: Callable[P, R]) -> Callable[P, R]:
    """Compile on first call, keep the compiled code on disk, let other threads run meanwhile."""
    return cast(
        Callable[P, R], numba.njit(cache=True, pipeline_class=ShortWayIn, **OPTIONS)(function)
    )


def kernel(function: Callable[P, R]) -> Callable[P, R]:
    """What an entry calls: compiled with it, and kept as a part of it."""
    return cast(Callable[P, R], numba.njit(**OPTIONS, **WITHIN)(function))


def inlined(function: Callable[P, R]) -> Callable[P, R]:
    """A kernel that is laid into its caller, for the few that run at every sample."""
    return cast(Callable[P, R], numba.njit(forceinline=True, **OPTIONS, **WITHIN)(function))


def plain(function: Callable[P, R]) -> Callable[P, R]:
    """The same source run by the interpreter, with every kernel that it calls."""
    source = cast(FunctionType, getattr(function, "py_func", function))
    names: dict[str, Any] = dict(source.__globals__)
    for name in source.__code__.co_names:
        called: Any = names.get(name)
        if hasattr(called, "py_func"):
            names[name] = plain(cast(Callable[..., Any], called))
        elif hasattr(called, "plain"):
            names[name] = called.plain  # what the compiler writes itself
    return cast(Callable[P, R], FunctionType(source.__code__, names, source.__name__))
