"""Functions of a document, over arrays (ISO 32000-2, 7.10): sampled, exponential, stitched, and calculated."""

import re
from collections.abc import Callable, Iterator
from itertools import product
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray

from plinto_core.errors import DocumentError
from plinto_core.pdf.reading import cause, numbers, pairs, real, whole

Array = NDArray[np.float64]
Function = Callable[[Array], Array]

_DEEPEST, _MOST_SAMPLES, _MOST_TOKENS, _MOST_STACKED, _MOST_SPLITS = 8, 1 << 24, 20_000, 100, 24


def function_of(found: Any, inputs: int, depth: int = 0) -> Function:
    """A function object, or an array of them with one output each: values (n, inputs) to (n, outputs).

    Raises `DocumentError` for what is no function, or takes another number of values.
    """
    if depth > _DEEPEST:
        raise DocumentError("a function is made of itself")
    if isinstance(found, pikepdf.Array):
        if not len(found):
            raise DocumentError("a function is missing")
        parts = [function_of(each, inputs, depth + 1) for each in found]
        return lambda values: np.column_stack([part(values) for part in parts])
    if not isinstance(found, pikepdf.Dictionary | pikepdf.Stream):
        raise DocumentError("a function is missing")
    domain = pairs(found.get("/Domain"), "a function's domain")
    if len(domain) != inputs:
        raise DocumentError(f"a function takes {len(domain)} values, and {inputs} are given")
    kinds = {0: _sampled, 2: _exponential, 3: _stitched, 4: _calculated}
    kind = whole(found, "/FunctionType", "a function", -1)
    if kind not in kinds:
        raise DocumentError(f"a function is of type {kind}, which is none of a PDF")
    inner = kinds[kind](found, domain, depth)
    bounds = found.get("/Range")
    span = None if bounds is None else pairs(bounds, "a function's range")

    def inside(values: Array) -> Array:
        out = inner(np.clip(np.asarray(values, np.float64), domain[:, 0], domain[:, 1]))
        return out if span is None else np.clip(out[:, : len(span)], span[:, 0], span[:, 1])

    return inside


def unpacked(data: bytes, bits: int, count: int) -> NDArray[np.uint32]:
    """`count` unsigned numbers of `bits` bits each, highest bit first; too few of them are followed by zeros."""
    need = (count * bits + 7) // 8
    raw = np.frombuffer(data[:need].ljust(need, b"\0"), np.uint8)
    if bits == 8:
        return raw.astype(np.uint32)
    if bits in (16, 32):
        return raw.view(f">u{bits // 8}").astype(np.uint32)
    single = np.unpackbits(raw)[: count * bits].reshape(count, bits).astype(np.uint32)
    return single @ (1 << np.arange(bits - 1, -1, -1)).astype(np.uint32)


def _sampled(found: Any, domain: Array, depth: int) -> Function:
    del depth
    if not isinstance(found, pikepdf.Stream):
        raise DocumentError("a sampled function has no samples")
    size = numbers(found.get("/Size"), "a function's size").astype(int)
    span = pairs(found.get("/Range"), "a function's range")
    bits, inputs, outputs = whole(found, "/BitsPerSample", "a function", 8), len(domain), len(span)
    count = int(np.prod(size)) * outputs
    if len(size) != inputs or (size < 1).any() or bits not in (1, 2, 4, 8, 12, 16, 24, 32) or count > _MOST_SAMPLES:
        raise DocumentError("a sampled function has sizes that cannot be")
    encode = pairs(found["/Encode"], "a function's encoding") if "/Encode" in found else None
    decode = pairs(found["/Decode"], "a function's decoding") if "/Decode" in found else span
    encode = np.column_stack([np.zeros(inputs), size - 1.0]) if encode is None else encode
    raw = unpacked(_read(found), bits, count).astype(np.float64) / (2.0**bits - 1)
    # The first input varies fastest.
    grid = decode[:, 0] + raw.reshape(*size[::-1], outputs) * (decode[:, 1] - decode[:, 0])

    def apply(values: Array) -> Array:
        width = np.where(domain[:, 1] > domain[:, 0], domain[:, 1] - domain[:, 0], 1)
        at = encode[:, 0] + (values - domain[:, 0]) / width * (encode[:, 1] - encode[:, 0])
        at = np.clip(at, 0, size - 1.0)
        low = np.minimum(at.astype(int), np.maximum(size - 2, 0))
        part = at - low
        out = np.zeros((len(values), outputs))
        for corner in product((0, 1), repeat=inputs):
            weight = np.prod([part[:, i] if on else 1 - part[:, i] for i, on in enumerate(corner)], axis=0)
            place = tuple(np.minimum(low[:, i] + corner[i], size[i] - 1) for i in range(inputs - 1, -1, -1))
            out += weight[:, None] * grid[place]
        return out

    return apply


def _read(stream: Any) -> bytes:
    try:
        return bytes(stream.read_bytes())
    except pikepdf.PdfError as error:
        raise DocumentError(f"a stream cannot be unpacked ({cause(error)})") from error


def _exponential(found: Any, domain: Array, depth: int) -> Function:
    del domain, depth
    first = numbers(found["/C0"], "a function's first color") if "/C0" in found else np.zeros(1)
    last = numbers(found["/C1"], "a function's last color") if "/C1" in found else np.ones(1)
    power = real(found, "/N", "a function", 1.0)
    if len(first) != len(last):
        raise DocumentError("a function begins and ends with different numbers of values")
    return lambda values: first + np.abs(values[:, :1]) ** power * (last - first)


def _stitched(found: Any, domain: Array, depth: int) -> Function:
    given, edges_given = found.get("/Functions"), found.get("/Bounds")
    parts = [function_of(each, 1, depth + 1) for each in given] if isinstance(given, pikepdf.Array) else []
    alone = not isinstance(edges_given, pikepdf.Array) or not len(edges_given)
    bounds = [] if alone else list(numbers(edges_given, "a stitched function's edges"))
    encode = pairs(found.get("/Encode"), "a function's encoding")
    if not parts or len(bounds) != len(parts) - 1 or len(encode) != len(parts):
        raise DocumentError("a stitched function has parts that do not fit")
    edges = np.array([domain[0, 0], *bounds, domain[0, 1]])

    def apply(values: Array) -> Array:
        x = values[:, 0]
        which = np.searchsorted(bounds, x, side="right")
        out: Array | None = None
        for at, part in enumerate(parts):
            rows = which == at
            if not rows.any() and out is not None:
                continue
            low, high = edges[at], edges[at + 1]
            share = (x[rows] - low) / (high - low) if high > low else np.zeros(int(rows.sum()))
            made = part((encode[at, 0] + share * (encode[at, 1] - encode[at, 0]))[:, None])
            if out is None:
                out = np.zeros((len(x), made.shape[1]))
            out[rows] = made
        assert out is not None
        return out

    return apply


_Block = list[Any]
_TOKEN = re.compile(rb"[{}]|[^\s{}]+")


def _calculated(found: Any, domain: Array, depth: int) -> Function:
    del domain, depth
    if not isinstance(found, pikepdf.Stream):
        raise DocumentError("a calculated function has no text")
    text = re.sub(rb"%[^\r\n]*", b"", _read(found))
    tokens = _TOKEN.findall(text)
    if not tokens or tokens[0] != b"{" or len(tokens) > _MOST_TOKENS:
        raise DocumentError("a calculated function does not begin as one, or has no end")
    feed = iter(tokens[1:])
    block = _block(feed, 0)
    outputs = len(pairs(found.get("/Range"), "a function's range"))

    def apply(values: Array) -> Array:
        with np.errstate(all="ignore"):
            out = _run(block, [values[:, at] for at in range(values.shape[1])], len(values), outputs, 0)
        if not np.isfinite(out).all():
            raise DocumentError("a calculated function cannot be worked out for every value")
        return out

    return apply


def _block(feed: Iterator[bytes], depth: int) -> _Block:
    if depth > 3 * _DEEPEST:
        raise DocumentError("a calculated function is nested too deep")
    out: _Block = []
    for token in feed:
        if token == b"}":
            return out
        if token == b"{":
            out.append(_block(feed, depth + 1))
            continue
        try:
            out.append(float(token) if b"." in token or b"e" in token.lower() else int(token))
        except ValueError:
            out.append(token.decode("latin-1"))
    raise DocumentError("a calculated function has no end")


#: A value of the stack: one number or truth for each row that is worked out.
_Item = NDArray[Any]


def _whole(item: _Item) -> _Item:
    return item if item.dtype == np.bool_ else item.astype(np.int64)


def _shifted(value: _Item, by: _Item) -> _Item:
    places = np.clip(_whole(by), -62, 62)
    left, right = _whole(value) << np.maximum(places, 0), _whole(value) >> np.maximum(-places, 0)
    return np.asarray(np.where(places >= 0, left, right))


_TWO: dict[str, Callable[[_Item, _Item], _Item]] = {
    "add": np.add, "sub": np.subtract, "mul": np.multiply, "div": np.divide,
    "idiv": lambda a, b: np.trunc(a / b), "mod": np.fmod, "exp": lambda a, b: np.power(a.astype(np.float64), b),
    "eq": np.equal, "ne": np.not_equal, "gt": np.greater, "ge": np.greater_equal, "lt": np.less, "le": np.less_equal,
    "and": lambda a, b: np.bitwise_and(_whole(a), _whole(b)), "or": lambda a, b: np.bitwise_or(_whole(a), _whole(b)),
    "xor": lambda a, b: np.bitwise_xor(_whole(a), _whole(b)), "atan": lambda a, b: np.degrees(np.arctan2(a, b)) % 360,
    "bitshift": _shifted,
}  # fmt: skip
_ONE: dict[str, Callable[[_Item], _Item]] = {
    "abs": np.abs, "neg": np.negative, "ceiling": np.ceil, "floor": np.floor, "round": lambda a: np.floor(a + 0.5),
    "truncate": np.trunc, "sqrt": np.sqrt, "sin": lambda a: np.sin(np.radians(a)), "cos": lambda a: np.cos(np.radians(a)),
    "ln": np.log, "log": np.log10, "cvi": np.trunc, "cvr": lambda a: a.astype(np.float64),
    "not": lambda a: np.logical_not(a) if a.dtype == np.bool_ else np.invert(_whole(a)),
}  # fmt: skip


def _run(  # noqa: PLR0912 - one branch a family of operators
    block: _Block, stack: list[_Item], rows: int, outputs: int, splits: int
) -> Array:
    """What a block leaves on top (rows, outputs), worked out for all rows at once; where they part, each part goes on alone
    to the end, for branches may leave stacks of different depth."""
    if splits > _MOST_SPLITS:
        raise DocumentError("a calculated function branches too often")
    try:
        for at, token in enumerate(block):
            if isinstance(token, int | float):
                stack.append(np.full(rows, float(token)))
            elif isinstance(token, list):
                continue
            elif token in ("true", "false"):
                stack.append(np.full(rows, token == "true"))
            elif token in _TWO:
                second, first = stack.pop(), stack.pop()
                stack.append(_TWO[token](first, second))
            elif token in _ONE:
                stack.append(_ONE[token](stack.pop()))
            elif token in ("if", "ifelse"):
                chosen = stack.pop().astype(np.bool_)
                yes, no = (block[at - 1], []) if token == "if" else (block[at - 2], block[at - 1])
                if not isinstance(yes, list) or not isinstance(no, list):
                    raise DocumentError("a calculated function chooses between what is no block")
                rest = block[at + 1 :]
                if chosen.all() or not chosen.any():
                    return _run((yes if chosen.all() else no) + rest, stack, rows, outputs, splits)
                out = np.empty((rows, outputs))
                for branch, where in ((yes, chosen), (no, ~chosen)):
                    part = [item[where] for item in stack]
                    out[where] = _run(branch + rest, part, int(where.sum()), outputs, splits + 1)
                return out
            else:
                _move(token, stack)
            if len(stack) > _MOST_STACKED:
                raise DocumentError(f"a calculated function piles up more than {_MOST_STACKED} values")
    except (IndexError, TypeError, ValueError, ZeroDivisionError, OverflowError, RecursionError) as error:
        raise DocumentError(f"a calculated function cannot be worked out ({error})") from error
    if not outputs or len(stack) < outputs:
        raise DocumentError("a calculated function leaves too few values")
    return np.stack([np.asarray(each, np.float64) for each in stack[len(stack) - outputs :]], axis=1)


def _count(item: _Item) -> int:
    """A number that counts places of the stack: the same for every row."""
    if len(item) and (item != item[0]).any():
        raise DocumentError("a calculated function counts its stack by what it is given")
    return int(item[0]) if len(item) else 0


def _move(token: str, stack: list[_Item]) -> None:
    if token == "pop":
        stack.pop()
    elif token == "exch":
        stack[-1], stack[-2] = stack[-2], stack[-1]
    elif token == "dup":
        stack.append(stack[-1])
    elif token == "copy":
        count = _count(stack.pop())
        if not 0 <= count <= len(stack):
            raise DocumentError("a calculated function copies what is not there")
        stack.extend(stack[len(stack) - count :])
    elif token == "index":
        at = _count(stack.pop())
        if not 0 <= at < len(stack):
            raise DocumentError("a calculated function looks for what is not there")
        stack.append(stack[-1 - at])
    elif token == "roll":
        by, count = _count(stack.pop()), _count(stack.pop())
        if not 0 < count <= len(stack):
            raise DocumentError("a calculated function rolls what is not there")
        top = stack[-count:]
        by %= count
        stack[-count:] = top[count - by :] + top[: count - by]
    else:
        raise DocumentError(f"'{token[:20]}' is nothing that a calculated function can do")
