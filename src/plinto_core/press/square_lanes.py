"""A color between the sixteen nodes of a cell of four inks, its components side by side in one vector.

The same sums in the same order as component by component, so the same numbers to the last bit.
"""

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

_I32, _I64 = ir.IntType(32), ir.IntType(64)
_LANES = ir.VectorType(ir.FloatType(), 4)

_Value = Any
_Builder = Any


def _node_at(b: _Builder, nodes: _Value, at: _Value) -> _Value:
    address = b.add(nodes, b.shl(at, ir.Constant(_I64, 4)))
    loaded = b.load(b.inttoptr(address, _LANES.as_pointer()))
    loaded.align = 4
    return loaded


def _mean(b: _Builder, corners: list[_Value], f: _Value, g: _Value) -> _Value:
    """Between four corners of a square, `f` along its first axis and `g` along its second."""

    def between(low: _Value, high: _Value, share: _Value) -> _Value:
        return b.fadd(low, b.fmul(share, b.fsub(high, low)))

    first = between(corners[0], corners[1], g)
    return b.fadd(first, b.fmul(f, b.fsub(between(corners[2], corners[3], g), first)))


@intrinsic
def between_nodes(_context, nodes, corners, beside, fractions):
    """Three components (float32) between sixteen nodes.

    nodes: address of float32 (n, 4), the fourth for nothing; corners: four places, those of the square of the first two
    inks; beside: the places that the third ink goes on by, where the fourth goes on by one; fractions: of the four inks
    inside the cell (float32).
    """

    def made(context: Any, b: _Builder, signature: Any, given: tuple[_Value, ...]) -> _Value:
        at, packed_corners, third, packed_fractions = given
        none, first = ir.Constant(_LANES, ir.Undefined), ir.Constant(_I32, 0)
        spread = [
            b.shuffle_vector(b.insert_element(none, each, first), none, ir.Constant(ir.VectorType(_I32, 4), [0] * 4))
            for each in cgutils.unpack_tuple(b, packed_fractions)
        ]
        one = ir.Constant(_I64, 1)
        squares = [
            _mean(
                b,
                [
                    _node_at(b, at, place)
                    for place in (corner, b.add(corner, one), b.add(corner, third), b.add(b.add(corner, third), one))
                ],
                spread[2],
                spread[3],
            )
            for corner in cgutils.unpack_tuple(b, packed_corners)
        ]
        found = _mean(b, squares, spread[0], spread[1])
        parts = [b.extract_element(found, ir.Constant(_I32, k)) for k in range(3)]
        return context.make_tuple(b, signature.return_type, parts)

    return types.UniTuple(types.float32, 3)(nodes, corners, beside, fractions), made
