"""Kernels compiled to object files, which are loaded without the compiler (see `ready_kernels`)."""

from importlib import import_module

from llvmlite import binding
from numba import cfunc, types


def compiled(module: str, name: str, kinds: tuple[str, ...]) -> bytes:
    """The object file of the kernel `name` of `module` for two rows and what else it is given, by kind: the name of an
    array's type with a star, int64 or float64. Its function has the kernel's name."""
    given = [
        types.CPointer(getattr(types, kind[:-1])) if kind.endswith("*") else getattr(types, kind) for kind in kinds
    ]
    function = cfunc(types.void(types.int64, types.int64, *given))(getattr(import_module(module), name))
    code = binding.parse_assembly(function.inspect_llvm())
    code.get_function(function.native_name).name = name
    machine = binding.Target.from_default_triple().create_target_machine(
        cpu=binding.get_host_cpu_name(),
        features=binding.get_host_cpu_features().flatten(),
        opt=3,
        reloc="default",
        codemodel="jitdefault",
        jit=True,
    )
    return bytes(machine.emit_object(code))
