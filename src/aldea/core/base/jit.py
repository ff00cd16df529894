"""The one wrapper round the compiler, and the way back to plain Python.

No fastmath: it makes `isnan(nan)` false. Reference counting is off in the kernels: they allocate
nothing, and counting took three quarters of the time. The cache folder is NUMBA_CACHE_DIR.
"""

from collections.abc import Callable
from types import FunctionType
from typing import Any, ParamSpec, TypeVar, cast

import numba

P = ParamSpec("P")
R = TypeVar("R")

OPTIONS: dict[str, Any] = {"nogil": True, "error_model": "numpy", "_nrt": False}
# What only compiled code calls needs no way in from Python; making one takes half the time.
WITHIN: dict[str, Any] = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True}


def entry(function: Callable[P, R]) -> Callable[P, R]:
    """Compile on first call, keep the compiled code on disk, let other threads run meanwhile."""
    return cast(Callable[P, R], numba.njit(cache=True, **OPTIONS)(function))


def kernel(function: Callable[P, R]) -> Callable[P, R]:
    """What an entry calls: compiled with it, and kept as a part of it."""
    return cast(Callable[P, R], numba.njit(**OPTIONS, **WITHIN)(function))


def inlined(function: Callable[P, R]) -> Callable[P, R]:
    """A kernel that is laid into its caller, for the few that run at every sample."""
    return cast(Callable[P, R], numba.njit(inline="always", **OPTIONS, **WITHIN)(function))


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
