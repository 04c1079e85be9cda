"""One look for every page that Plinto makes to be printed or sent on: HTML in one file, nothing loaded from anywhere."""

from html import escape

_STYLE = """
body { font: 10.5pt/1.45 "Public Sans", system-ui, sans-serif; color: #1b1b1a; background: #fff; max-width: 180mm;
  margin: 12mm auto; font-variant-numeric: tabular-nums; }
h1 { font-size: 16pt; margin: 0; }
h2 { font-size: 11pt; border-top: .3mm solid #1b1b1a; padding-top: 1.5mm; margin: 6mm 0 2mm; }
table { border-collapse: collapse; width: 100%; }
td, th { padding: 1mm 3.5mm 1mm 0; text-align: left; font-weight: 400; vertical-align: top;
  border-bottom: .2mm solid #d9d6d0; }
thead { display: table-header-group; }
tr, figure { break-inside: avoid; }
.number { text-align: right; }
.verdict { font-weight: 600; font-size: 12pt; }
"""


def printed_page(title: str, body: str, style: str = "") -> str:
    """A whole document: `title` in plain words, also its heading; `body` in HTML; `style` for what only this page has."""
    name = escape(title)
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{name}</title><style>{_STYLE}{style}</style>'
        f"</head><body><h1>{name}</h1>{body}</body></html>"
    )
