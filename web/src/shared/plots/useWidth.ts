import { type RefObject, useLayoutEffect, useState } from "react";

/** How wide an element stands, in pixels, so that what is drawn in it keeps its sizes of type. */
export function useWidth(element: RefObject<Element | null>, first: number): number {
  const [width, setWidth] = useState(first);
  useLayoutEffect(() => {
    if (!element.current) return;
    // Before the first picture: drawn at another width, it would push what is around it about.
    const { paddingLeft, paddingRight } = getComputedStyle(element.current);
    const inside =
      element.current.clientWidth - Number.parseFloat(paddingLeft) - Number.parseFloat(paddingRight);
    if (inside > 0) setWidth(Math.max(Math.round(inside), 120));
    const look = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(Math.round(entry.contentRect.width), 120));
    });
    look.observe(element.current);
    return () => look.disconnect();
  }, [element]);
  return width;
}
