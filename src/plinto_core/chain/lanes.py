"""Four inks at a time through the corners of a cell, exact in integers: what a processor's vector unit does in one go.

Weights sum to 2**15 and nodes are 16 bit, so a lane of 32 bits holds the exact weighted sum of one ink. Products of signed
numbers of 16 bits are what processors add in pairs at once, so nodes are kept less 2**15, and weights are taken negative:
-2**15 has 16 bits, 2**15 has not. Written in LLVM's own terms, for whatever processor; loops of numba's did not come to it.
"""

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

_I16, _I32, _I64 = ir.IntType(16), ir.IntType(32), ir.IntType(64)
_INKS16, _INKS32 = ir.VectorType(_I16, 4), ir.VectorType(_I32, 4)
_PAIRS16, _PAIRS32 = ir.VectorType(_I16, 8), ir.VectorType(_I32, 8)
#: Lane value of one code of 8 bits is 257 times this, of 16 bits this.
_UNIT = 1 << 15
#: What 16 bits divide by 257 with, exactly, keeping the upper 16 bits of the product and shifting by 8.
_BY_257 = 65281

_Value = Any
_Builder = Any


def _all(value: int, kind: Any) -> Any:
    return ir.Constant(kind, [value] * kind.count)


def _shuffled(b: _Builder, x: _Value, y: _Value, places: list[int]) -> _Value:
    return b.shuffle_vector(x, y, ir.Constant(ir.VectorType(_I32, len(places)), places))


def _weighted(b: _Builder, nodes: _Value, row_bytes: _Value, corners: list[_Value], weights: list[_Value]) -> _Value:
    """Weighted sums (4 × 32 bit) of the inks of nodes at `corners`."""
    total = _all(1 << 30, _INKS32)
    for at in range(0, len(corners), 2):
        pair = [_inks_at(b, nodes, row_bytes, corner) for corner in corners[at : at + 2]]
        shares = [b.trunc(b.sub(ir.Constant(_I64, 0), weight), _I16) for weight in weights[at : at + 2]]
        if len(pair) == 1:
            pair.append(_all(0, _INKS16))
            shares.append(ir.Constant(_I16, 0))
        both = b.or_(b.zext(shares[0], _I32), b.shl(b.zext(shares[1], _I32), ir.Constant(_I32, 16)))
        spread = _shuffled(
            b,
            b.insert_element(ir.Constant(_INKS32, ir.Undefined), both, ir.Constant(_I32, 0)),
            ir.Constant(_INKS32, ir.Undefined),
            [0] * 4,
        )
        inks = b.sext(_shuffled(b, *pair, [0, 4, 1, 5, 2, 6, 3, 7]), _PAIRS32)
        products = b.mul(inks, b.sext(b.bitcast(spread, _PAIRS16), _PAIRS32))
        sums = b.add(_shuffled(b, products, products, [0, 2, 4, 6]), _shuffled(b, products, products, [1, 3, 5, 7]))
        total = b.sub(total, sums)
    return total


def _inks_at(b: _Builder, nodes: _Value, row_bytes: _Value, corner: _Value) -> _Value:
    address = b.add(nodes, b.mul(corner, row_bytes))
    loaded = b.load(b.inttoptr(address, _INKS16.as_pointer()))
    loaded.align = 2
    return loaded


def _codes(b: _Builder, sums: _Value, bits: int) -> _Value:
    """Sums divided by the lane value of one code, rounded down, as 4 × 16 bit."""
    most = _all(65535, _INKS32)
    whole = b.lshr(sums, _all(15, _INKS32))
    # Rounding may have lifted the largest sum over 16 bits; the largest code is the same.
    whole = b.select(b.icmp_unsigned(">", whole, most), most, whole)
    if bits == 16:
        return b.trunc(whole, _INKS16)
    product = b.lshr(b.mul(b.zext(b.trunc(whole, _INKS16), _INKS32), _all(_BY_257, _INKS32)), _all(16, _INKS32))
    return b.lshr(b.trunc(product, _INKS16), _all(8, _INKS16))


@intrinsic
def weighted_codes(_context, out, nodes, row_bytes, corners, weights, caps):
    """Codes of four inks, rounded but none above its cap, and rounded down: each four of 16 bits in a word (uint64).

    out: an array whose type says how deep the codes are (uint8 or uint32: 8 bits; others: 16); nodes: address of four
    int16, values less 2**15, in the first of rows of so many bytes; corners: a tuple of rows; weights: as many, summing
    to 2**15; caps: the largest codes, four of 16 bits in a word.
    """
    bits = 8 if out.dtype in (types.uint8, types.uint32) else 16

    def made(context: Any, b: _Builder, signature: Any, given: tuple[_Value, ...]) -> _Value:
        _, at, size, packed_corners, packed_weights, largest = given
        sums = _weighted(
            b, at, size, cgutils.unpack_tuple(b, packed_corners), cgutils.unpack_tuple(b, packed_weights)
        )
        half = _all(257 * _UNIT // 2 if bits == 8 else _UNIT // 2, _INKS32)
        rounded, most = _codes(b, b.add(sums, half), bits), b.bitcast(largest, _INKS16)
        rounded = b.select(b.icmp_unsigned(">", rounded, most), most, rounded)
        words = [b.bitcast(codes, _I64) for codes in (rounded, _codes(b, sums, bits))]
        return context.make_tuple(b, signature.return_type, words)

    return types.UniTuple(types.uint64, 2)(out, nodes, row_bytes, corners, weights, caps), made
