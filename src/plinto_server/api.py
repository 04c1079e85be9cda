"""All that the server can do, as one typed API (OpenAPI at /api/openapi.json)."""

import logging

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from ninja.errors import HttpError
from ninja.security import django_auth

from plinto_core.errors import BusyError, PlintoError
from plinto_server.accounts.api import people_router as people
from plinto_server.accounts.api import router as accounts
from plinto_server.artworks.api import router as artworks
from plinto_server.batches.api import router as batches
from plinto_server.bench.api import report_router as reports
from plinto_server.bench.api import router as bench
from plinto_server.bench.separations_api import router as runs
from plinto_server.characterizations.api import router as characterizations
from plinto_server.colors.api import router as colors
from plinto_server.colors.proofing_api import router as proofing
from plinto_server.conditions.api import router as conditions
from plinto_server.described import DescribedAPI
from plinto_server.errors import ConflictError, ForbiddenError, FullError, MissingError, TooLargeError
from plinto_server.files import database, space
from plinto_server.house.api import router as house
from plinto_server.policies.api import router as policies
from plinto_server.records.api import router as records
from plinto_server.removals.api import router as removals
from plinto_server.strict_json import StrictParser, StrictRenderer
from plinto_server.warm.turns import AskerLeftError

logger = logging.getLogger("plinto.server")

api = DescribedAPI(
    title="Plinto", version="1", auth=django_auth, docs_url=None, parser=StrictParser(), renderer=StrictRenderer()
)
api.add_router("/session", accounts)
api.add_router("/people", people)
api.add_router("/artworks", artworks)
api.add_router("/conditions", reports)
api.add_router("/conditions", conditions)
api.add_router("/characterizations", characterizations)
api.add_router("/bench", bench)
api.add_router("/runs", runs)
api.add_router("/batches", batches)
api.add_router("/colors", colors)
api.add_router("/colors", proofing)
api.add_router("/house", house)
api.add_router("/policies", policies)
api.add_router("/records", records)
api.add_router("/removed", removals)

#: Of a request that cannot be taken apart: a form that is none, or one whose file has a name beyond what a header holds.
UNREADABLE = "The request cannot be read. If a file was sent, its name may be too long: shorten it and try again."
_STATUS = {
    MissingError: 404, ConflictError: 409, TooLargeError: 413, FullError: 507, ForbiddenError: 403, BusyError: 503,
}  # fmt: skip


@api.exception_handler(PlintoError)
def _refused(request: HttpRequest, error: PlintoError) -> HttpResponse:
    status = _STATUS.get(type(error), 422)
    answer = api.create_response(request, {"detail": str(error)}, status=status)
    if status == 503:
        answer["Retry-After"] = "5"
    return answer


@api.exception_handler(AskerLeftError)
def _nobody(request: HttpRequest, error: AskerLeftError) -> HttpResponse:
    return HttpResponse(status=204)


@api.exception_handler(HttpError)
def _unreadable(request: HttpRequest, error: HttpError) -> HttpResponse:
    # What the parser said is told, not only that it could not parse.
    said = error.__cause__ if isinstance(error.__cause__, HttpError) else error
    return api.create_response(request, {"detail": str(said)}, status=error.status_code)


@api.exception_handler(MultiPartParserError)
def _broken_form(request: HttpRequest, error: MultiPartParserError) -> HttpResponse:
    return api.create_response(request, {"detail": UNREADABLE}, status=400)


@api.exception_handler(OSError)
def _disk(request: HttpRequest, error: OSError) -> HttpResponse:
    if space.is_full(error):
        return api.create_response(request, {"detail": space.FULL}, status=507)
    if isinstance(error, FileNotFoundError):
        # Whoever removed it was faster. Where it lay is nobody's business but the log's.
        logger.warning("a file is gone: %s", error)
        return api.create_response(request, {"detail": "This file is not here any more."}, status=404)
    raise error


@api.exception_handler(OperationalError)
@api.exception_handler(InterfaceError)
def _database(request: HttpRequest, error: Exception) -> HttpResponse:
    if space.is_full(error):
        return api.create_response(request, {"detail": space.FULL}, status=507)
    if database.passes(error):
        detail = "The database is busy, and nothing was saved. Try again in a moment."
        answer = api.create_response(request, {"detail": detail}, status=503)
        answer["Retry-After"] = "5"
        return answer
    raise error
