import { useEffect, useState } from "react";
import { useBringBack, useJustRemoved, useRemovedLately } from "../../api/removedQueries";
import { moment } from "../figures";

const TOLD_MS = 15_000;

/** Says what one has just removed, in whatever room one is, with the way back. */
export function Removed({ user }: { user: string }) {
  const [told, close] = useJustRemoved(user);
  const [held, setHeld] = useState(false);
  const back = useBringBack();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is told next has its time from its own beginning
  useEffect(() => {
    if (!told || held) return;
    const later = setTimeout(close, TOLD_MS);
    return () => clearTimeout(later);
  }, [told, held]);
  return (
    <section
      className="removed"
      aria-label="Removed"
      onPointerEnter={() => setHeld(true)}
      onPointerLeave={() => setHeld(false)}
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
    >
      <div role="status">
        {told === "gone" && (
          <p>
            <b>Removed</b> for good: the server&rsquo;s disk is nearly full, and the room was needed.
          </p>
        )}
        {told && told !== "gone" && (
          <p>
            <b>Removed</b> {told.name}
          </p>
        )}
      </div>
      {back.error && (
        <p className="notice" role="alert">
          {back.error.message}
        </p>
      )}
      {told && (
        <p className="ways">
          {told !== "gone" && (
            <button
              type="button"
              className="quiet-button strong"
              disabled={back.isPending}
              onClick={() => back.mutate(told.id, { onSuccess: close })}
            >
              Bring it back
            </button>
          )}
          <button type="button" className="quiet-button" onClick={close}>
            Close
          </button>
        </p>
      )}
    </section>
  );
}

/** What anybody of the house removed within the last quarter of an hour, each with the way back. */
export function RemovedLately() {
  const found = useRemovedLately();
  const back = useBringBack();
  if (!found.data?.length) return null;
  return (
    <section aria-label="Removed lately">
      <h2 className="minor">Removed lately</h2>
      <p className="soft">
        It comes back whole for a quarter of an hour; after that it is gone, its files too.
      </p>
      {back.error && (
        <p className="notice" role="alert">
          {back.error.message}
        </p>
      )}
      <table className="table">
        <thead>
          <tr>
            <th>What</th>
            <th>By</th>
            <th>When</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {found.data.map((each) => (
            <tr key={each.id}>
              <td>{each.name}</td>
              <td>{each.author_name}</td>
              <td>{moment(each.at)}</td>
              <td>
                <button
                  type="button"
                  className="quiet-button"
                  aria-label={`Bring back ${each.name}`}
                  disabled={back.isPending}
                  onClick={() => back.mutate(each.id)}
                >
                  Bring back
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
