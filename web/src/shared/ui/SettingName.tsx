import "./SettingName.css";
import Tooltip from "@mui/material/Tooltip";
import { EXPLAINED } from "../explained";

/** The name of a setting; one that does not explain itself says what it does when pointed at or gone to, and leads on. */
export function SettingName({ name }: { name: string }) {
  const known = EXPLAINED.get(name);
  if (!known) return <span aria-hidden="true">{name}</span>;
  return (
    <Tooltip describeChild arrow={false} enterDelay={300} placement="top-start" title={known.sentence}>
      <a
        className="setting-name"
        href={known.href}
        target="_blank"
        rel="noreferrer"
        aria-label={`What ${name} does`}
      >
        {name}
      </a>
    </Tooltip>
  );
}
