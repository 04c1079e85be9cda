"""Names that come from outside."""

_MOST = 120


def clean_name(name: str, otherwise: str = "artwork") -> str:
    """A name fit for showing and for file names: no paths, no control characters, nothing that is no text, at most
    120 characters. `otherwise` where nothing is left."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    kept = "".join(c for c in last if c.isprintable()).strip().lstrip(".")
    stem, dot, ending = kept.rpartition(".")
    return f"{stem[:110]}{dot}{ending[:9]}" if dot else kept[:_MOST] or otherwise
