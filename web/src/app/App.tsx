import { useQueryClient } from "@tanstack/react-query";
import { type ComponentType, lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { type Session, SIGNED_OUT } from "../api/client";
import { useSession } from "../api/queries";
import { SignIn } from "../rooms/sign-in/SignIn";
import { ErrorBoundary } from "../shared/ui/ErrorBoundary";
import { House } from "./House";

/** Each room is loaded when it is entered. */
const LOAD = {
  ArtworkShelf: () => import("../rooms/bench/ArtworkShelf").then((room) => room.ArtworkShelf),
  BenchRoom: () => import("../rooms/bench/BenchRoom").then((room) => room.BenchRoom),
  CharacterizePage: () =>
    import("../rooms/characterize/CharacterizePage").then((room) => room.CharacterizePage),
  BuildPage: () => import("../rooms/conditions/BuildPage").then((room) => room.BuildPage),
  ConditionPage: () => import("../rooms/conditions/ConditionPage").then((room) => room.ConditionPage),
  ConditionsRoom: () => import("../rooms/conditions/ConditionsRoom").then((room) => room.ConditionsRoom),
  ColorsRoom: () => import("../rooms/colors/ColorsRoom").then((room) => room.ColorsRoom),
  DriftPage: () => import("../rooms/conditions/DriftPage").then((room) => room.DriftPage),
  ProfilePage: () => import("../rooms/conditions/ProfilePage").then((room) => room.ProfilePage),
  FromNumbersPage: () => import("../rooms/conditions/FromNumbersPage").then((room) => room.FromNumbersPage),
  GamutRoom: () => import("../rooms/gamut/GamutRoom").then((room) => room.GamutRoom),
  HouseRoom: () => import("../rooms/house/HouseRoom").then((room) => room.HouseRoom),
  PoliciesRoom: () => import("../rooms/policies/PoliciesRoom").then((room) => room.PoliciesRoom),
  PeopleRoom: () => import("../rooms/people/PeopleRoom").then((room) => room.PeopleRoom),
  RunsRoom: () => import("../rooms/runs/RunsRoom").then((room) => room.RunsRoom),
};

const entered = (load: () => Promise<ComponentType>) =>
  lazy(() => load().then((component) => ({ default: component })));
const ArtworkShelf = entered(LOAD.ArtworkShelf);
const BenchRoom = entered(LOAD.BenchRoom);
const CharacterizePage = entered(LOAD.CharacterizePage);
const BuildPage = entered(LOAD.BuildPage);
const ConditionPage = entered(LOAD.ConditionPage);
const ConditionsRoom = entered(LOAD.ConditionsRoom);
const ColorsRoom = entered(LOAD.ColorsRoom);
const DriftPage = entered(LOAD.DriftPage);
const ProfilePage = entered(LOAD.ProfilePage);
const FromNumbersPage = entered(LOAD.FromNumbersPage);
const GamutRoom = entered(LOAD.GamutRoom);
const HouseRoom = entered(LOAD.HouseRoom);
const PoliciesRoom = entered(LOAD.PoliciesRoom);
const PeopleRoom = entered(LOAD.PeopleRoom);
const RunsRoom = entered(LOAD.RunsRoom);

const room = (element: ReactNode) => (
  <ErrorBoundary what="This room">
    <Suspense fallback={<p className="room soft">Opening the room</p>}>{element}</Suspense>
  </ErrorBoundary>
);

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
    // The others while nobody waits, so that a server that is away later keeps nobody out of them.
    const later = setTimeout(() => void Promise.allSettled(Object.values(LOAD).map((load) => load())), 3000);
    return () => clearTimeout(later);
  }, []);
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
              <Route path="/colors" element={room(<ColorsRoom />)} />
              <Route path="/house" element={room(<HouseRoom />)} />
              <Route path="/policies" element={room(<PoliciesRoom />)} />
              <Route path="/people" element={room(<PeopleRoom />)} />
              <Route path="/conditions/from-numbers" element={room(<FromNumbersPage />)} />
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
