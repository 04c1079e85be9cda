import "./characterize.css";
import "./NewCharacterization.css";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useDevices, useStartCharacterization } from "../../api/characterizationQueries";
import { useMedia } from "../../api/conditionQueries";
import { fixed } from "../../shared/figures";
import { drivenByRgb, inkNames, RGB_CHANNELS } from "../../shared/inks";

/** Begin with a name, a device and a medium. */
export function NewCharacterization({ onLeave }: { onLeave: () => void }) {
  const devices = useDevices();
  const media = useMedia();
  const start = useStartCharacterization();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [device, setDevice] = useState("");
  const [inks, setInks] = useState("C M Y K");
  const [driven, setDriven] = useState("inks");
  const [medium, setMedium] = useState(0);
  return (
    <section className="new-path" aria-label="New characterization">
      <TextField
        size="small"
        label="Name: medium and mode"
        value={name}
        autoFocus
        onChange={(event) => setName(event.target.value)}
      />
      <Select
        size="small"
        displayEmpty
        value={device}
        inputProps={{ "aria-label": "Device" }}
        onChange={(event) => setDevice(event.target.value)}
      >
        <MenuItem value="">No device: measured elsewhere</MenuItem>
        {devices.data?.map((each) => (
          <MenuItem key={each.slug} value={each.slug}>
            {each.name}, {drivenByRgb(each.inks) ? "driven by RGB" : inkNames(each.inks)}
          </MenuItem>
        ))}
      </Select>
      {device === "" && (
        <>
          <Select
            size="small"
            value={driven}
            inputProps={{ "aria-label": "Driven by" }}
            onChange={(event) => setDriven(event.target.value)}
          >
            <MenuItem value="inks">Driven by its inks</MenuItem>
            <MenuItem value="RGB">Driven by RGB</MenuItem>
          </Select>
          {driven === "inks" && (
            <TextField
              size="small"
              label="Inks"
              value={inks}
              onChange={(event) => setInks(event.target.value)}
            />
          )}
        </>
      )}
      <Select
        size="small"
        value={medium}
        inputProps={{ "aria-label": "Medium" }}
        onChange={(event) => setMedium(Number(event.target.value))}
      >
        <MenuItem value={0}>No medium named</MenuItem>
        {media.data?.map((each) => (
          <MenuItem key={each.id} value={each.id}>
            {each.name}, {fixed(each.cost_per_m2, 2)} {each.currency}/m²
          </MenuItem>
        ))}
      </Select>
      <Button
        variant="contained"
        disabled={start.isPending || !name.trim()}
        onClick={() =>
          start.mutate(
            {
              name,
              device_slug: device,
              inks: device ? [] : driven === "RGB" ? RGB_CHANNELS : inks.trim().split(/[\s,]+/),
              medium_id: medium || null,
            },
            { onSuccess: (made) => navigate(`/characterize/${made.id}`) },
          )
        }
      >
        Begin
      </Button>
      <Button onClick={onLeave}>Cancel</Button>
      {start.error && <p className="notice">{start.error.message}</p>}
    </section>
  );
}
