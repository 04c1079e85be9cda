"""Text that lies over other text or is covered, words that are cut, what scrolls sideways: told from what is laid out."""

from playwright.sync_api import Page

#: Sizes that Plinto is used at; the smallest is 1280 × 800 at 200 %.
SIZES = ((1024, 768), (1600, 1000), (640, 400), (1280, 800))
_FOUND = """
() => {
  const seen = each => each.checkVisibility({opacityProperty: true, visibilityProperty: true});
  const lines = [], found = [];
  const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (texts.nextNode()) {
    const text = texts.currentNode, holder = text.parentElement;
    if (!text.textContent.trim() || !seen(holder) || getComputedStyle(holder).clipPath !== 'none') continue;
    if (holder.closest('.visually-hidden, svg, canvas, option, script, style')) continue;
    const range = document.createRange();
    range.selectNodeContents(text);
    for (const line of range.getClientRects()) {
      // What is left of it inside everything that clips; what floats over the page on purpose is left out.
      const box = {left: line.left, top: line.top, right: line.right, bottom: line.bottom};
      let floats = false;
      for (let at = holder; at && at !== document.body; at = at.parentElement) {
        const style = getComputedStyle(at);
        floats ||= style.position === 'fixed' || style.position === 'sticky';
        if (style.overflow === 'visible') continue;
        const around = at.getBoundingClientRect();
        box.left = Math.max(box.left, around.left);
        box.top = Math.max(box.top, around.top);
        box.right = Math.min(box.right, around.right);
        box.bottom = Math.min(box.bottom, around.bottom);
      }
      if (!floats && box.right - box.left > 2 && box.bottom - box.top > 2)
        lines.push([holder, box, text.textContent.trim().slice(0, 30)]);
    }
  }
  for (const [holder, box, said] of lines) {
    // What lies on top of it: itself, or what it is part of. What stays in place while others scroll may cover.
    if (getComputedStyle(holder).pointerEvents === 'none') continue;
    for (const share of [0.25, 0.5, 0.75]) {
      const down = box.top + share * (box.bottom - box.top);
      const top = document.elementFromPoint((box.left + box.right) / 2, down);
      if (!top || holder.contains(top) || top.contains(holder)) continue;
      let stays = false;
      for (let at = top; at && at !== document.body; at = at.parentElement)
        stays ||= ['fixed', 'sticky'].includes(getComputedStyle(at).position);
      if (!stays) found.push(`'${said}' is covered by '${(top.textContent || top.className).slice(0, 30)}'`);
    }
  }
  for (const each of document.querySelectorAll('main *')) {
    // A grid of colors has as many columns as its route has steps.
    if (each.matches('.color-grid')) continue;
    const style = getComputedStyle(each);
    if (['auto', 'scroll'].includes(style.overflowX) && seen(each) && each.scrollWidth > each.clientWidth + 2)
      found.push(`'${each.className || each.tagName}' scrolls sideways`);
  }
  lines.forEach(([one, a, said], at) => {
    for (const [other, b, also] of lines.slice(at + 1)) {
      const across = Math.min(a.right, b.right) - Math.max(a.left, b.left);
      const down = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
      if (one !== other && across > 3 && down > 5) found.push(`'${said}' lies over '${also}'`);
    }
  });
  for (const each of document.querySelectorAll('button, a, label, h1, h2, h3, td, th, p, span, b, summary')) {
    const style = getComputedStyle(each);
    const clips = style.overflowX === 'hidden' || style.overflowX === 'clip';
    if (clips && style.textOverflow !== 'ellipsis' && seen(each) && !each.closest('.visually-hidden, svg'))
      if (each.clientWidth > 0 && each.scrollWidth > each.clientWidth + 2) found.push(`'${each.textContent}' is cut`);
  }
  if (document.documentElement.scrollWidth > innerWidth + 1) found.push('the page scrolls sideways');
  return [...new Set(found)].slice(0, 5);
}
"""


def overlapping(page: Page) -> list[str]:
    """What is wrong with the layout in each size; the page has its usual size afterwards."""
    found = []
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        page.wait_for_timeout(150)
        wrong = page.evaluate(_FOUND)
        if wrong:
            # A busy machine takes longer to follow a window's size; what stays is wrong.
            page.wait_for_timeout(1500)
            wrong = page.evaluate(_FOUND)
        found += [f"at {width} × {height} {each}" for each in wrong]
    return found
