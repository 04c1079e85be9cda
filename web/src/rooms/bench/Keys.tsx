import "./Keys.css";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import FormControlLabel from "@mui/material/FormControlLabel";
import { KEYS, MORE_KEYS, useSingleKeys } from "./useBenchKeys";

/** All keys of the Bench, and whether single ones act. */
export function Keys({ onClose }: { onClose: () => void }) {
  const [single, setSingle] = useSingleKeys();
  const list = (keys: [string, string][]) => (
    <dl>
      {keys.map(([key, meaning]) => (
        <div key={key} style={{ display: "contents" }}>
          <dt className="strong">{key}</dt>
          <dd>{meaning}</dd>
        </div>
      ))}
    </dl>
  );
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title" maxWidth="sm">
      <div className="keys-list">
        <h2 id="keys-title">Keys of the Bench</h2>
        {list(MORE_KEYS)}
        <FormControlLabel
          control={<Checkbox checked={single} onChange={(_, on) => setSingle(on)} />}
          label="Single keys act, wherever nothing is typed or chosen"
        />
        {list(KEYS)}
        <Button sx={{ mt: 2 }} onClick={onClose} autoFocus>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
