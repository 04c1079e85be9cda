"""Rows in words: a row's sentence is made of its data."""

from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import BlackOnly, CleanSolids, Convert, Does, Leave, Refuse, Row

_COLORS = {
    "pure black": "pure black", "pure ink": "a single ink", "equal RGB": "equal RGB", "near neutral": "near neutral",
    "solids": "solids",
}  # fmt: skip
_OBJECTS = {"text": "text", "line art": "line art", "image": "pictures", "shading": "shadings"}


def catches_in_words(catches: Catches) -> str:
    """What a row catches, as 'RGB · pictures · without a profile'."""
    if catches.everything:
        return "everything else"
    parts = [
        " and ".join("spots" if space == "spot" else space for space in catches.spaces),
        " and ".join(_OBJECTS[each] for each in catches.objects),
        "" if catches.tagged is None else "with a profile" if catches.tagged else "without a profile",
        _COLORS.get(catches.color, ""),
        ", ".join(catches.spots),
        "" if catches.overprint is None else "overprinting" if catches.overprint else "not overprinting",
        "" if catches.ink_over is None else f"over {catches.ink_over:g} % ink",
        "" if catches.ppi_under is None else f"under {catches.ppi_under:g} ppi",
        "" if catches.ppi_over is None else f"over {catches.ppi_over:g} ppi",
    ]
    return " · ".join(part for part in parts if part)


def does_in_words(does: Does) -> str:
    """What is done, as 'convert, relative with black point compensation'."""
    match does:
        case Convert():
            intent = does.intent or "the job's intent"
            bpc = " with black point compensation" if does.bpc and does.intent != "absolute" else ""
            how = (
                "by the profile's tables" if does.method == "as-profiled" else f"own separation, {does.black.upper()}"
            )
            limit = f", {does.limit:g} %" if does.limit is not None else ""
            kept = f", {' and '.join(does.preserve)} preserved" if does.preserve else ""
            return f"convert, {intent}{bpc}, {how}{limit}{kept}"
        case Leave():
            return "leave"
        case Refuse():
            return f"refuse: “{does.sentence}”"
        case BlackOnly():
            return "black only, by printed L*"
        case CleanSolids():
            return "clean solids"


def in_words(row: Row) -> str:
    """The whole row."""
    caught = catches_in_words(row.catches)
    return f"{caught[0].upper()}{caught[1:]}: {does_in_words(row.does)}{' (off)' if row.off else ''}"
