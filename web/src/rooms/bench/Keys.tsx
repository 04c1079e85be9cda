import Button from "@mui/material/Button";
import { useEffect } from "react";
import { KEYS } from "./useBenchKeys";

/** All keys of the Bench. */
export function Keys({ onClose }: { onClose: () => void }) {
  useEffect(() => {
    const close = (event: KeyboardEvent) => event.key === "Escape" && onClose();
    window.addEventListener("keydown", close);
    return () => window.removeEventListener("keydown", close);
  }, [onClose]);
  return (
    <div className="keys-layer" role="dialog" aria-label="Keys of the Bench" aria-modal="true">
      <div>
        <h2>Keys of the Bench</h2>
        <dl>
          {KEYS.map(([key, meaning]) => (
            <div key={key} style={{ display: "contents" }}>
              <dt className="strong">{key}</dt>
              <dd>{meaning}</dd>
            </div>
          ))}
        </dl>
        <Button sx={{ mt: 2 }} onClick={onClose} autoFocus>
          Close
        </Button>
      </div>
    </div>
  );
}
