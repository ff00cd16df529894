"""How kernels are joined: each is kept as it was lowered, and all are optimised once, together.

The compiler would finish each kernel by itself, with all that it calls laid into it again: the same
code is optimised and assembled as often as there are callers above it. Here a kernel's library
holds its own function only. The entry links every kernel below it, makes them its own, and is
finished once: a third of the time, and more is laid into its callers.
"""

from typing import Any

from llvmlite import binding
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler_machinery import FunctionPass, register_pass


class NoEnvironment:
    """The code generator of a kernel, which has no environment: it never meets the interpreter."""

    def __init__(self, codegen: Any) -> None:
        self._codegen = codegen

    def __getattr__(self, name: str) -> Any:
        return getattr(self._codegen, name)

    def set_env(self, env_name: str, env: object) -> None:
        """Nothing: the symbol is not there before the entry is finished, and nobody reads it."""


class KernelLibrary(JITCodeLibrary):
    """One kernel as it was lowered; never finished by itself."""

    @property
    def codegen(self) -> Any:
        """The code generator, without its environments."""
        return NoEnvironment(self._codegen)

    def _ensure_finalized(self) -> None:
        """Left to the entry."""

    def add_linking_library(self, library: Any) -> None:
        """Remember what it calls."""
        self._linking_libraries.append(library)

    def get_pointer_to_function(self, name: str) -> int:
        """None: it has no way in from Python."""
        return 0

    def _get_module_for_linking(self) -> Any:
        if self._shared_module is None:
            self._shared_module = self._final_module.clone()
            for function in self._shared_module.functions:
                if not function.is_declaration and function.linkage == binding.Linkage.external:
                    function.linkage = "linkonce_odr"
        return self._shared_module


class EntryLibrary(JITCodeLibrary):
    """What Python calls, with every kernel below it."""

    def finalize(self) -> None:
        """Link all, keep what is called from outside, and optimise once."""
        own = {function.name for function in self._final_module.functions}
        todo, below = list(self._linking_libraries), dict[Any, None]()
        while todo:
            library = todo.pop()
            if library not in below:
                below[library] = None
                todo += library._linking_libraries if isinstance(library, KernelLibrary) else []
        for library in below:
            self._final_module.link_in(library._get_module_for_linking(), preserve=True)
        self._linking_libraries = []
        for function in self._final_module.functions:
            if not function.is_declaration and function.name not in own:
                function.linkage = "internal"
        super().finalize()


def _gives(kind: type, name: str) -> type:
    @register_pass(mutates_CFG=False, analysis_only=True)
    class GiveLibrary(FunctionPass):
        """Puts the function that is compiled into a library of the right kind."""

        _name = name

        def __init__(self) -> None:
            FunctionPass.__init__(self)

        def run_pass(self, state: Any) -> bool:
            """The library; nothing of the function is changed."""
            state.library = kind(state.targetctx.codegen(), state.func_id.func_qualname)
            state.library.enable_object_caching()
            return False

    return GiveLibrary


GiveKernelLibrary = _gives(KernelLibrary, "kernel_library")
GiveEntryLibrary = _gives(EntryLibrary, "entry_library")
