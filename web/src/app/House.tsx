import Slider from "@mui/material/Slider";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { NavLink, Outlet } from "react-router";
import { api, type Session, taken } from "../api/client";
import { useColorLists } from "../api/colorQueries";
import { useRuleSets } from "../api/houseQueries";
import { useOutputs } from "../api/policyQueries";
import { useConditions, useRuns } from "../api/queries";
import { usePreference } from "../shared/preferences";
import { RegisterMark } from "../shared/ui/RegisterMark";
import { useArriving, useUploads } from "../shared/uploads/Uploads";

/** The rail with its rooms, and the room that is entered. */
export function House({ session }: { session: Session }) {
  const queries = useQueryClient();
  const conditions = useConditions();
  const runs = useRuns();
  const outputs = useOutputs();
  const lists = useColorLists();
  const arriving = useArriving();
  useUploads();
  const rules = useRuleSets().data?.find((set) => set.in_use);
  const [dim, setDim] = usePreference("dim", false);
  const [surround, setSurround] = usePreference("surround", 50);
  const running = runs.data?.filter((run) => run.state === "running" || run.state === "queued").length ?? 0;

  useEffect(() => {
    document.documentElement.dataset.room = dim ? "dim" : "light";
    document.documentElement.style.setProperty("--surround", `lab(${surround}% 0 0)`);
  }, [dim, surround]);

  async function signOut() {
    await taken(api.DELETE("/api/session"));
    queries.clear();
    location.assign("/");
  }

  return (
    <div className="house">
      <nav className="rail" aria-label="Rooms">
        <div className="mark">
          <RegisterMark size={18} /> Plinto
        </div>
        <NavLink to="/bench">
          Bench
          <small>{arriving ? `${arriving} arriving` : ""}</small>
        </NavLink>
        <NavLink to="/conditions">
          Conditions
          <small>{conditions.data ? `${conditions.data.length} to print on` : ""}</small>
        </NavLink>
        <NavLink to="/colors">
          Colors
          <small>
            {lists.data?.length ? `${lists.data.length} ${lists.data.length === 1 ? "list" : "lists"}` : ""}
          </small>
        </NavLink>
        <NavLink to="/policies">
          Policies
          <small>{outputs.data ? `${outputs.data.length} outputs` : ""}</small>
        </NavLink>
        <NavLink to="/runs">
          Runs
          <small>{running ? `${running} in the making` : ""}</small>
        </NavLink>
        <div className="foot">
          <div>
            Gray L* {surround}
            <Slider
              size="small"
              aria-label="Lightness around the artwork"
              min={10}
              max={90}
              value={surround}
              onChange={(_, value) => setSurround(value as number)}
            />
          </div>
          <button type="button" onClick={() => setDim(!dim)}>
            {dim ? "Light room" : "Dim room"}
          </button>
          <NavLink to="/house" className="house-link">
            House rules:
            <br />
            <b>{rules?.rules.name ?? "none yet"}</b>
          </NavLink>
          <span>
            <NavLink to="/people" className="house-link">
              {session.user}, {session.role}
            </NavLink>
            <button type="button" onClick={signOut}>
              Sign out
            </button>
          </span>
        </div>
      </nav>
      <Outlet />
    </div>
  );
}
