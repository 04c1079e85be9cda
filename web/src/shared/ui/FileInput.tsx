import type { RefObject } from "react";

interface Props {
  /** For the button that opens it. */
  at: RefObject<HTMLInputElement | null>;
  label: string;
  accept: string;
  onFile: (file: File) => void;
}

/** An unseen field for one file, which a button stands for; the same file can be chosen again. */
export function FileInput({ at, label, accept, onFile }: Props) {
  return (
    <input
      ref={at}
      type="file"
      hidden
      accept={accept}
      aria-label={label}
      onChange={(event) => {
        const file = event.target.files?.[0];
        event.target.value = "";
        if (file) onFile(file);
      }}
    />
  );
}
