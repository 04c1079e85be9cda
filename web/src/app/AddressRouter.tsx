import { type ReactNode, startTransition, useLayoutEffect, useState } from "react";
import { UNSAFE_createBrowserHistory as createBrowserHistory, Router } from "react-router";

/**
 * The address as React's state. What is chosen within a room stands in the address too, and holds at once: an edit made
 * right after a region was chosen goes to that region. To another room it is a transition: the one that is left stays
 * until the next is there.
 */
export function AddressRouter({ children }: { children: ReactNode }) {
  const [history] = useState(() => createBrowserHistory({ v5Compat: true }));
  const [now, setNow] = useState(() => ({ action: history.action, location: history.location }));
  useLayoutEffect(() => {
    let path = history.location.pathname;
    return history.listen((next) => {
      const stays = next.location.pathname === path;
      path = next.location.pathname;
      stays ? setNow(next) : startTransition(() => setNow(next));
    });
  }, [history]);
  return (
    <Router location={now.location} navigationType={now.action} navigator={history}>
      {children}
    </Router>
  );
}
