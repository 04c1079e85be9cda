import { type RefObject, useLayoutEffect, useState } from "react";

/** How wide an element stands, in pixels, so that what is drawn in it keeps its sizes of type. */
export function useWidth(element: RefObject<Element | null>, first: number): number {
  const [width, setWidth] = useState(first);
  useLayoutEffect(() => {
    if (!element.current) return;
    const look = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(Math.round(entry.contentRect.width), 120));
    });
    look.observe(element.current);
    return () => look.disconnect();
  }, [element]);
  return width;
}
