"""JSON in and out as the standard has it (RFC 8259): no NaN, no endless numbers, no halves of letters."""

import json
import math
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser
from ninja.renderers import JSONRenderer

_MOST_DIGITS = 2**63


class StrictParser(Parser):
    """Refuses what Python reads and neither the database nor a browser can hold."""

    def parse_body(self, request: HttpRequest) -> Any:
        """The body as plain values; HttpError 400 says what is wrong with it."""
        try:
            plain = json.loads(request.body.decode("utf-8"), parse_constant=_refuse, parse_int=_whole)
        except (ValueError, RecursionError) as error:
            raise HttpError(400, f"The request is no JSON that can be read ({error}).") from error
        _check(plain)
        return plain


def _refuse(word: str) -> Any:
    raise ValueError(f"{word} is no number")


def _whole(digits: str) -> int:
    if len(digits) > 20:
        raise ValueError("a whole number has more than 20 digits")
    return int(digits)


def _check(plain: Any) -> None:
    """Walk once over everything that came in."""
    waiting = [plain]
    while waiting:
        value = waiting.pop()
        if isinstance(value, dict):
            waiting += [*value.keys(), *value.values()]
        elif isinstance(value, list):
            waiting += value
        elif isinstance(value, str):
            _check_text(value)
        elif isinstance(value, float) and not math.isfinite(value):
            raise HttpError(400, "A number of the request is too large to be one.")
        elif isinstance(value, int) and not -_MOST_DIGITS <= value < _MOST_DIGITS:
            raise HttpError(400, "A whole number of the request is too large.")


def _check_text(text: str) -> None:
    try:
        text.encode()
    except UnicodeEncodeError as error:
        raise HttpError(400, "A text of the request has half a letter in it (a lone surrogate).") from error
    if "\0" in text:
        raise HttpError(400, "A text of the request has a NUL in it.")


class StrictRenderer(JSONRenderer):
    """Never answers with what is no JSON; a number that is none is a fault of ours and shows as one."""

    json_dumps_params = {"allow_nan": False}  # noqa: RUF012 - as the class above declares it
