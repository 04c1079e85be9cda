"""Kernels compiled to object files, which are loaded without the compiler (see `ready_kernels`)."""

from importlib import import_module

from llvmlite import binding
from numba import cfunc, types

#: What the machine does by itself, and what reports an error, which no kernel raises.
_NEEDS_NOTHING = ("numba_", "NRT_", "Py", "llvm.")
#: Of what LLVM has names for, what it leaves to the C library.
_LIBRARYS = ("pow", "exp", "log", "sin", "cos", "tan", "fmod", "frem", "ldexp", "frexp")


def compiled(module: str, name: str, kinds: tuple[str, ...]) -> bytes:
    """The object file of the kernel `name` of `module` for two rows and what else it is given, by kind: the name of an
    array's type with a star, int64 or float64. Its function has the kernel's name."""
    given = [
        types.CPointer(getattr(types, kind[:-1])) if kind.endswith("*") else getattr(types, kind) for kind in kinds
    ]
    function = cfunc(types.void(types.int64, types.int64, *given))(getattr(import_module(module), name))
    code = binding.parse_assembly(function.inspect_llvm())
    code.get_function(function.native_name).name = name
    called = sorted(each.name for each in code.functions if each.is_declaration and _is_elsewhere(each.name))
    if called:
        # Who finds it for numba is not there without numba: the call would take the process along.
        raise NotImplementedError(f"The kernel '{name}' calls {', '.join(called)}, which is nowhere without numba.")
    machine = binding.Target.from_default_triple().create_target_machine(
        cpu=binding.get_host_cpu_name(),
        features=binding.get_host_cpu_features().flatten(),
        opt=3,
        reloc="default",
        codemodel="jitdefault",
        jit=True,
    )
    return bytes(machine.emit_object(code))


def _is_elsewhere(function: str) -> bool:
    """Whether a function that is called is none of the machine's own."""
    left_to_library = function.startswith("llvm.") and function.split(".")[1].startswith(_LIBRARYS)
    return left_to_library or not function.startswith(_NEEDS_NOTHING)
