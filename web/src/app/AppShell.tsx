import "./AppShell.css";
import Slider from "@mui/material/Slider";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { NavLink, Outlet, useLocation } from "react-router";
import { api, type Session, taken } from "../api/client";
import { useColorLists } from "../api/colorQueries";
import { useRuleSets } from "../api/houseQueries";
import { useOutputs } from "../api/policyQueries";
import { useConditions, useRuns } from "../api/queries";
import { GuideDock } from "../guide/GuideDock";
import { counted } from "../shared/figures";
import { onSurround } from "../shared/onSurround";
import { usePreference } from "../shared/preferences";
import { Finished } from "../shared/ui/Finished";
import { RegisterMark } from "../shared/ui/RegisterMark";
import { Removed } from "../shared/ui/Removed";
import { useKeptFocus } from "../shared/ui/useKeptFocus";
import { NARROW, useMedia } from "../shared/ui/useMedia";
import { UploadList, useArriving, useUploads } from "../shared/uploads/Uploads";

/** Rooms that list files on their way in themselves; in the others the house does, for they are dropped anywhere. */
const SHOWS_ARRIVALS = /^\/(bench|conditions)?\/?$/;

/** The rail with its rooms, and the room that is entered. */
export function AppShell({ session }: { session: Session }) {
  const queries = useQueryClient();
  const narrow = useMedia(NARROW);
  const conditions = useConditions();
  const runs = useRuns();
  const outputs = useOutputs();
  const lists = useColorLists();
  const arriving = useArriving();
  useUploads();
  const path = useLocation().pathname;
  useKeptFocus(path.split("/")[1] ?? "");
  const ruleSets = useRuleSets().data;
  const rules = ruleSets?.find((set) => set.in_use);
  const [guided, setGuided] = usePreference("guided", false);
  const [dim, setDim] = usePreference("dim", false);
  const [surround, setSurround] = usePreference("surround", 50);
  const running = runs.data?.filter((run) => run.state === "running" || run.state === "queued").length ?? 0;

  useEffect(() => {
    document.documentElement.dataset.room = dim ? "dim" : "light";
    document.documentElement.style.setProperty("--surround", `lab(${surround}% 0 0)`);
    document.documentElement.style.setProperty("--on-surround", onSurround(surround));
  }, [dim, surround]);

  async function signOut() {
    await taken(api.DELETE("/api/session"));
    queries.clear();
    location.assign("/");
  }

  return (
    <div className="house" data-guided={guided}>
      <button
        type="button"
        className="skip"
        onClick={() => document.querySelector<HTMLElement>("main h1")?.focus()}
      >
        To the room
      </button>
      <nav className="rail" aria-label="Rooms">
        <div className="mark">
          <RegisterMark size={18} /> <span>Plinto</span>
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
          <small>{lists.data?.length ? counted(lists.data.length, "list") : ""}</small>
        </NavLink>
        <NavLink to="/policies">
          Policies
          <small>{outputs.data ? counted(outputs.data.length, "output") : ""}</small>
        </NavLink>
        <NavLink to="/runs">
          Runs
          <small>{running ? `${running} in the making` : ""}</small>
        </NavLink>
        <details className="foot" open={!narrow}>
          <summary>Room and person</summary>
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
          <button type="button" className="quiet-button" onClick={() => setDim(!dim)}>
            {dim ? "Light room" : "Dim room"}
          </button>
          <button
            type="button"
            className="quiet-button"
            aria-expanded={guided}
            onClick={() => setGuided(!guided)}
          >
            Guides
          </button>
          <NavLink to="/house" className="house-link">
            House rules:
            <br />
            <b>{rules?.rules.name ?? (ruleSets ? "none yet" : "…")}</b>
          </NavLink>
          <span>
            <NavLink to="/people" className="house-link">
              {session.user}, {session.role}
            </NavLink>
            <button type="button" className="quiet-button" onClick={signOut}>
              Sign out
            </button>
          </span>
        </details>
      </nav>
      <Outlet />
      {guided && <GuideDock onClose={() => setGuided(false)} />}
      {!SHOWS_ARRIVALS.test(path) && (
        <div className="arriving">
          <UploadList />
        </div>
      )}
      <div className="told">
        <Removed user={session.user ?? ""} />
        <Finished user={session.user ?? ""} />
      </div>
    </div>
  );
}
