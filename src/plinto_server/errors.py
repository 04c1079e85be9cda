"""What the server refuses beside what the core refuses."""

from plinto_core.errors import PlintoError


class MissingError(PlintoError):
    """Something that was asked for is not there (404)."""


class ConflictError(PlintoError):
    """Somebody else was faster (409)."""


class TooLargeError(PlintoError):
    """An upload beyond the limit (413)."""


class FullError(PlintoError):
    """There is no room for it on the disk (507)."""


class ForbiddenError(PlintoError):
    """The person's role does not allow it (403)."""
