"""The guides as pages to read: Markdown of docs/guide, with pictures from the demo."""

import re

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import render
from markdown_it import MarkdownIt

_PAGES = settings.ROOT / "docs" / "guide"
_PICTURES = settings.ROOT / "docs" / "screenshots"
_NAME = re.compile(r"[a-z][a-z-]{0,40}")
_MARKDOWN = MarkdownIt("commonmark")
#: A line of a list that begins with what it is about.
_NAMED = re.compile(r"<li><strong>([^<]+)</strong>")


def _with_place(found: re.Match[str]) -> str:
    """The line with an id, to which the front end's settings lead (see its `placeOf`)."""
    place = found[1].lower().replace(" ", "-")
    return f'<li id="{place}"><strong>{found[1]}</strong>'


def guide_page(request: HttpRequest, page: str = "index") -> HttpResponse:
    """One guide; 404 with a way back where there is none of that name."""
    path = _PAGES / f"{page}.md"
    if not _NAME.fullmatch(page) or not path.exists():
        return render(request, "guide.html", {"title": "No such guide", "body": ""}, status=404)
    text = path.read_text()
    body = _NAMED.sub(_with_place, _MARKDOWN.render(text))
    title = text.splitlines()[0].lstrip("# ")
    return render(request, "guide.html", {"title": title, "body": body, "index": page == "index"})


def guide_picture(request: HttpRequest, name: str) -> HttpResponseBase:
    """A picture of a guide; 404 where there is none of that name."""
    path = _PICTURES / f"{name}.png"
    if not _NAME.fullmatch(name) or not path.exists():
        return HttpResponse(status=404)
    return FileResponse(path.open("rb"), content_type="image/png")
