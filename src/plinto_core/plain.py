"""Plain values, as JSON has them, read into dataclasses: the one reader of everything that is saved and handed on."""

from functools import cache
from typing import TYPE_CHECKING, Any, TypeVar

from plinto_core.errors import PlintoError

if TYPE_CHECKING:
    from pydantic import TypeAdapter

Kind = TypeVar("Kind")


@cache
def _reader(kind: Any) -> "TypeAdapter[Any]":
    # A tenth of a second to load, and not every command reads something.
    from pydantic import TypeAdapter

    return TypeAdapter(kind)


def read_plain(
    kind: type[Kind], plain: object, what: str, error: type[PlintoError], *, strict: bool = True
) -> Kind:  # fmt: skip
    """`plain` as a dataclass of this `kind`; `what` is how the text begins: 'The delivery rule'.

    Raises `error` that says where it cannot be read and why; unless not `strict`, also for what nothing is called.
    Errors that the dataclass raises of its own pass as they are.
    """
    from pydantic import ValidationError

    known: Any = kind
    try:
        found: Kind = _reader(known).validate_python(plain)
    except ValidationError as failed:
        first = failed.errors()[0]
        where = _place(tuple(first["loc"])) or "its beginning"
        raise error(f"{what} cannot be read at {where}: {first['msg']}.") from failed
    if strict and (stranger := _unread(plain, _reader(known).dump_python(found))):
        inside = f" in {_place(stranger[:-1])}" if len(stranger) > 1 else ""
        here = _reader(known).dump_python(found)
        for part in stranger[:-1]:
            here = here[part]
        raise error(
            f"{what} cannot be read: nothing is called '{stranger[-1]}'{inside}; there stand {', '.join(sorted(here))}."
        )
    return found


def _place(parts: tuple[int | str, ...]) -> str:
    """Where something stands, lists counted from 1 as people do."""
    return " › ".join(str(part + 1 if isinstance(part, int) else part) for part in parts)


def _unread(given: object, read: object) -> tuple[int | str, ...]:
    """Where something was given that reading passed over; nothing where nothing was."""
    if isinstance(given, dict) and isinstance(read, dict):
        pairs = [(key, value, read.get(key)) for key, value in given.items()]
        unknown = sorted(str(key) for key in given if key not in read)
        if unknown:
            return (unknown[0],)
    elif isinstance(given, list | tuple) and isinstance(read, list | tuple):
        pairs = [(at, *each) for at, each in enumerate(zip(given, read, strict=False))]
    else:
        return ()
    for key, value, other in pairs:
        if found := _unread(value, other):
            return (key, *found)
    return ()
