import { useEffect } from "react";

/** Where the focus stood: enough to find the control that comes in its place when it is drawn anew. */
interface Stand {
  element: HTMLElement | SVGElement;
  tag: string;
  name: string;
  around: Element[];
  lostAt?: number;
}

/** How long a control may take to come back before the focus goes to the heading of what is around it. */
const WAITS_MS = 700;

const nameOf = (element: Element) =>
  element.getAttribute("aria-label") ??
  (element as HTMLInputElement).labels?.[0]?.textContent ??
  element.textContent?.trim() ??
  "";
const disabled = (element: Element) => element.matches(":disabled, [aria-disabled=true]");

function around(element: Element): Element[] {
  const found: Element[] = [];
  for (let up = element.parentElement; up && up !== document.body; up = up.parentElement) found.push(up);
  return found;
}

/** Any element can hold the focus for a while: it is read, and Tab goes on from there. */
function place(element: HTMLElement) {
  if (element.tabIndex < 0) element.tabIndex = -1;
  element.focus({ preventScroll: true });
}

function headingIn(stand: Stand): HTMLElement | null {
  const left = stand.around.find((each) => each.isConnected && each.querySelector("h1, h2, h3"));
  return (left ?? document).querySelector<HTMLElement>("main h1, h1, h2, h3");
}

/**
 * Keeps the focus from falling to the page. A control that goes (a figure that was typed, a panel of another
 * condition, a step that is done) hands it to the one of its kind and name that comes, or to the heading of what is
 * left; one that was disabled while something ran gets it back. `room` names where one is: entering another room
 * from the rail goes to its heading. The document is titled by that heading.
 */
export function useKeptFocus(room: string) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: begun again in each room
  useEffect(() => {
    let entering = document.activeElement?.closest(".rail") != null;
    let stand: Stand | undefined;
    let due = 0;

    function came({ target }: FocusEvent) {
      if (!(target instanceof HTMLElement || target instanceof SVGElement) || target === document.body)
        return;
      stand = { element: target, tag: target.tagName, name: nameOf(target), around: around(target) };
    }
    function went({ target, relatedTarget }: FocusEvent) {
      if (relatedTarget) return;
      setTimeout(() => {
        const left = document.activeElement === document.body && target === stand?.element;
        // Somebody pressed beside it: that is meant.
        if (left && stand?.element.isConnected && !disabled(stand.element)) stand = undefined;
      });
    }
    function look() {
      due = 0;
      const main = document.querySelector("main");
      const heading = main?.querySelector<HTMLElement>("h1");
      if (heading?.textContent) document.title = `${main?.dataset.title ?? heading.textContent} · Plinto`;
      if (entering && heading) {
        entering = false;
        if (document.activeElement?.closest(".rail") || document.activeElement === document.body)
          place(heading);
        return;
      }
      if (!stand || document.activeElement !== document.body) return;
      if (stand.element.isConnected) {
        if (!disabled(stand.element)) stand.element.focus({ preventScroll: true });
        return;
      }
      const { tag, name } = stand;
      const same = [...document.querySelectorAll<HTMLElement>(`main ${tag}`)].find(
        (each) => nameOf(each) === name && !disabled(each),
      );
      if (name && same) return same.focus({ preventScroll: true });
      stand.lostAt ??= performance.now();
      if (performance.now() - stand.lostAt < WAITS_MS) return void setTimeout(soon, WAITS_MS);
      const next = headingIn(stand);
      if (next) place(next);
    }
    const soon = () => {
      due ||= requestAnimationFrame(look);
    };
    const observer = new MutationObserver(soon);
    observer.observe(document.body, { childList: true, subtree: true, attributeFilter: ["disabled"] });
    document.addEventListener("focusin", came);
    document.addEventListener("focusout", went);
    soon();
    return () => {
      observer.disconnect();
      cancelAnimationFrame(due);
      document.removeEventListener("focusin", came);
      document.removeEventListener("focusout", went);
    };
  }, [room]);
}
