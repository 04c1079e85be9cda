"""All that the server can do, as one typed API (OpenAPI at /api/openapi.json)."""

import errno

from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.security import django_auth

from plinto_core.errors import PlintoError
from plinto_server.accounts.api import router as accounts
from plinto_server.artworks.api import router as artworks
from plinto_server.bench.api import router as bench
from plinto_server.characterizations.api import router as characterizations
from plinto_server.conditions.api import router as conditions
from plinto_server.errors import ConflictError, MissingError, TooLargeError
from plinto_server.house.api import router as house
from plinto_server.runs.api import router as runs

api = NinjaAPI(title="Plinto", version="1", auth=django_auth, docs_url=None)
api.add_router("/session", accounts)
api.add_router("/artworks", artworks)
api.add_router("/conditions", conditions)
api.add_router("/characterizations", characterizations)
api.add_router("/bench", bench)
api.add_router("/runs", runs)
api.add_router("/house", house)

_STATUS = {MissingError: 404, ConflictError: 409, TooLargeError: 413}


@api.exception_handler(PlintoError)
def _refused(request: HttpRequest, error: PlintoError) -> HttpResponse:
    return api.create_response(request, {"detail": str(error)}, status=_STATUS.get(type(error), 422))


@api.exception_handler(OSError)
def _disk(request: HttpRequest, error: OSError) -> HttpResponse:
    if error.errno != errno.ENOSPC:
        raise error
    detail = "The disk of the server is full; nothing was kept. Make room and try again."
    return api.create_response(request, {"detail": detail}, status=507)
