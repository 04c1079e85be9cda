import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { type Session, SIGNED_OUT } from "../api/client";
import { useSession } from "../api/queries";
import { ArtworkShelf } from "../rooms/bench/ArtworkShelf";
import { BenchRoom } from "../rooms/bench/BenchRoom";
import { CharacterizePage } from "../rooms/characterize/CharacterizePage";
import { BuildPage } from "../rooms/conditions/BuildPage";
import { ConditionPage } from "../rooms/conditions/ConditionPage";
import { ConditionsRoom } from "../rooms/conditions/ConditionsRoom";
import { DriftPage } from "../rooms/conditions/DriftPage";
import { ProfilePage } from "../rooms/conditions/ProfilePage";
import { GamutRoom } from "../rooms/gamut/GamutRoom";
import { HouseRoom } from "../rooms/house/HouseRoom";
import { PeopleRoom } from "../rooms/people/PeopleRoom";
import { RunsRoom } from "../rooms/runs/RunsRoom";
import { SignIn } from "../rooms/sign-in/SignIn";
import { ErrorBoundary } from "../shared/ui/ErrorBoundary";
import { House } from "./House";

const room = (element: ReactNode) => <ErrorBoundary what="This room">{element}</ErrorBoundary>;

export function App() {
  const session = useSession();
  if (session.error && !session.data) return <p className="notice">{session.error.message}</p>;
  if (!session.data) return null;
  if (!session.data.user) return <SignIn session={session.data} />;
  return <Rooms session={session.data} />;
}

/** The rooms stay as they are when a session ends: signing in lies over them until somebody has. */
function Rooms({ session }: { session: Session }) {
  const queries = useQueryClient();
  const [ended, setEnded] = useState(false);
  useEffect(() => {
    const end = () => setEnded(true);
    window.addEventListener(SIGNED_OUT, end);
    return () => window.removeEventListener(SIGNED_OUT, end);
  }, []);

  function goOn(now: Session) {
    // Somebody else begins afresh.
    if (now.user !== session.user) return location.assign("/");
    queries.setQueryData(["session"], now);
    setEnded(false);
    void queries.invalidateQueries();
  }

  return (
    <>
      <div className="rooms" inert={ended}>
        <BrowserRouter>
          <Routes>
            <Route element={<House session={session} />}>
              <Route path="/bench" element={room(<ArtworkShelf />)} />
              <Route path="/bench/:artworkId" element={room(<BenchRoom />)} />
              <Route path="/bench/:artworkId/:slug" element={room(<BenchRoom />)} />
              <Route path="/conditions" element={room(<ConditionsRoom />)} />
              <Route path="/house" element={room(<HouseRoom />)} />
              <Route path="/people" element={room(<PeopleRoom />)} />
              <Route path="/conditions/:slug" element={room(<ConditionPage />)} />
              <Route path="/conditions/:slug/build" element={room(<BuildPage />)} />
              <Route path="/conditions/:slug/profile" element={room(<ProfilePage />)} />
              <Route path="/conditions/:slug/drift" element={room(<DriftPage />)} />
              <Route path="/characterize/:id" element={room(<CharacterizePage />)} />
              <Route path="/gamut" element={room(<GamutRoom />)} />
              <Route path="/runs" element={room(<RunsRoom />)} />
              <Route path="*" element={<Navigate to="/bench" replace />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </div>
      {ended && (
        <div className="signed-out" role="dialog" aria-modal="true" aria-label="Sign in again">
          <SignIn session={session} again={session.user ?? ""} onDone={goOn} />
        </div>
      )}
    </>
  );
}
