import type { ReactNode } from "react";

interface Props {
  /** What was to be shown. */
  title: string;
  /** Why it is not, and the way on. */
  children: ReactNode;
}

/** A page in the place of one that cannot be shown: it has a title and is announced as any other. */
export function NotHere({ title, children }: Props) {
  return (
    <main className="room">
      <h1 tabIndex={-1}>{title}</h1>
      <p className="notice" role="alert">
        {children}
      </p>
    </main>
  );
}
