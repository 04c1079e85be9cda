import { type MouseEvent, type ReactNode, useState } from "react";
import { detailOf, Refused } from "../../api/client";

/** A file that the server makes when asked: saved under its name, or the refusal in words beside the link. */
export function FileLink({ href, children }: { href: string; children: ReactNode }) {
  const [refused, setRefused] = useState<string>();
  const [waiting, setWaiting] = useState(false);
  const fetched = async (event: MouseEvent) => {
    event.preventDefault();
    setWaiting(true);
    setRefused(undefined);
    try {
      await save(href);
    } catch (cause) {
      setRefused(cause instanceof Refused ? cause.message : "The server cannot be reached. Try again.");
    } finally {
      setWaiting(false);
    }
  };
  return (
    <>
      <a href={href} onClick={fetched} aria-busy={waiting}>
        {children}
      </a>
      {refused && (
        <span className="notice" role="alert">
          {refused}
        </span>
      )}
    </>
  );
}

async function save(href: string) {
  const answer = await fetch(href, { credentials: "same-origin" });
  if (!answer.ok) throw detailOf(await answer.json().catch(() => undefined), answer.status);
  const named = answer.headers.get("Content-Disposition")?.match(/filename\*=UTF-8''([^;]+)/)?.[1];
  const address = URL.createObjectURL(await answer.blob());
  const link = document.createElement("a");
  link.href = address;
  link.download = named ? decodeURIComponent(named) : (href.split("/").at(-1) ?? "file");
  link.click();
  URL.revokeObjectURL(address);
}
