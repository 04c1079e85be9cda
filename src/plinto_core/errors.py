"""What can go wrong, each error saying what to do about it."""


class PlintoError(Exception):
    """Base of every error that is the input's fault, not the program's. The text names cause and way out."""


class IccError(PlintoError):
    """A profile that cannot be read, written or used."""

    def __init__(self, cause: str, *, tag: str = "", offset: int | None = None) -> None:
        where = f" in tag '{tag}'" if tag else ""
        where += f" at byte {offset}" if offset is not None else ""
        super().__init__(f"The ICC profile is not usable: {cause}{where}.")
        self.tag = tag
        self.offset = offset


class CharacterizationError(PlintoError):
    """Measurement data that cannot be read or fitted."""


class PipelineError(PlintoError):
    """Steps of a conversion that do not fit each other."""


class RecipeError(PlintoError):
    """Settings that contradict each other or the condition they are meant for."""


class ArtworkError(PlintoError):
    """A picture that cannot be opened, or that is not what it says."""


class DocumentError(PlintoError):
    """A PDF that cannot be opened, or not be read in full."""


class PolicyError(PlintoError):
    """A policy, delivery rule or ticket that cannot be read, or contradicts itself."""


class DecoderError(PlintoError):
    """A file that breaks its decoder, or needs far more memory or time than a file of its kind."""


class DeliveryError(PlintoError):
    """A file that, read back, does not hold what was to be written in it."""


class BusyError(PlintoError):
    """There is too much to do right now; a moment later there may not be."""


class PaletteError(PlintoError):
    """Text that was to be a list of colors and is not."""


class ToneTableError(PlintoError):
    """A tone table, a step wedge or a .cube file that cannot be read or used."""


class Cancelled(PlintoError):  # noqa: N818 - it is no error, it is an end
    """The operator stopped the work; nothing was kept."""
