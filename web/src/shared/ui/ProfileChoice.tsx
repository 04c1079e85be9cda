import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useRef, useState } from "react";
import { useProfiles, useTakeInProfile } from "../../api/houseQueries";
import { useConditions } from "../../api/queries";

export const SPACES = ["sRGB", "opRGB", "ROMM", "P3"];

/** Stands in the list for bringing in another. */
const IMPORT = "import";

interface Props {
  label: string;
  value: string;
  space: string;
  first?: [string, string][];
  disabled?: boolean;
  /** Whether the way to bring in another is in the list instead of below it. */
  compact?: boolean;
  onChange: (choice: string) => void;
}

/** A profile by name: working spaces, profiles that were brought in, and a way to bring in another. */
export function ProfileChoice({ label, value, space, first = [], disabled, compact, onChange }: Props) {
  const profiles = useProfiles();
  const bringIn = useTakeInProfile();
  const input = useRef<HTMLInputElement>(null);
  const [unfit, setUnfit] = useState("");
  const conditions = useConditions().data ?? [];
  const brought = profiles.data?.filter((each) => each.space === space) ?? [];
  // A condition's profile says what CMYK means there; it need not be brought in again.
  const printed = space === "CMYK" ? conditions.filter((each) => each.inks.join("") === "CMYK") : [];
  const stored = [
    ...brought,
    ...printed
      .filter((each) => !brought.some((other) => other.sha256 === each.profile_sha256))
      .map((each) => ({ sha256: each.profile_sha256, name: each.name })),
  ];
  const spaces = space === "RGB" ? SPACES : [];
  const known = [...first.map(([choice]) => choice), ...spaces, ...stored.map((each) => each.sha256)];
  return (
    <>
      <Select
        size="small"
        displayEmpty
        disabled={disabled}
        value={known.includes(value) ? value : ""}
        inputProps={{ "aria-label": label }}
        onChange={(event) =>
          event.target.value === IMPORT ? input.current?.click() : onChange(event.target.value)
        }
      >
        {!known.includes(value) && (
          <MenuItem value="" disabled>
            choose a profile
          </MenuItem>
        )}
        {first.map(([choice, name]) => (
          <MenuItem key={choice} value={choice}>
            {name}
          </MenuItem>
        ))}
        {spaces.map((each) => (
          <MenuItem key={each} value={each}>
            {each}
          </MenuItem>
        ))}
        {stored.map((each) => (
          <MenuItem key={each.sha256} value={each.sha256}>
            {each.name}
          </MenuItem>
        ))}
        {compact && <MenuItem value={IMPORT}>Import an ICC profile</MenuItem>}
      </Select>
      {!compact && (
        <button
          type="button"
          className="quiet-button soft"
          aria-label={`Import an ICC profile: ${label}`}
          onClick={() => input.current?.click()}
        >
          Import an ICC profile
        </button>
      )}
      <input
        ref={input}
        type="file"
        hidden
        accept=".icc,.icm"
        aria-label={`ICC file for ${label}`}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          setUnfit("");
          if (file)
            bringIn.mutate(file, {
              onSuccess: (made) =>
                made.space === space
                  ? onChange(made.sha256)
                  : setUnfit(`'${made.name}' is a profile of ${made.space}; here one of ${space} is wanted.`),
            });
        }}
      />
      {(bringIn.error || unfit) && (
        <p className="notice" role="alert">
          {bringIn.error?.message ?? unfit}
        </p>
      )}
    </>
  );
}
