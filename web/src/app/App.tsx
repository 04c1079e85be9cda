import { useQueryClient } from "@tanstack/react-query";
import { type ComponentType, lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { matchPath, Navigate, Route, Routes } from "react-router";
import { api, type Session, SIGNED_OUT, taken } from "../api/client";
import { useSession } from "../api/queries";
import { SignIn } from "../rooms/sign-in/SignIn";
import { ErrorBoundary } from "../shared/ui/ErrorBoundary";
import { AddressRouter } from "./AddressRouter";
import { AppShell } from "./AppShell";

type Load = () => Promise<ComponentType>;

/** Every room with its addresses; each is loaded when it is entered. */
const ROOMS: [paths: string[], load: Load][] = [
  [["/bench"], () => import("../rooms/bench/ArtworkShelf").then((room) => room.ArtworkShelf)],
  [
    ["/bench/:artworkId", "/bench/:artworkId/:slug"],
    () => import("../rooms/bench/BenchRoom").then((room) => room.BenchRoom),
  ],
  [["/conditions"], () => import("../rooms/conditions/ConditionsRoom").then((room) => room.ConditionsRoom)],
  [
    ["/conditions/from-numbers"],
    () => import("../rooms/conditions/FromNumbersPage").then((room) => room.FromNumbersPage),
  ],
  [
    ["/conditions/:slug"],
    () => import("../rooms/conditions/ConditionPage").then((room) => room.ConditionPage),
  ],
  [["/conditions/:slug/build"], () => import("../rooms/conditions/BuildPage").then((room) => room.BuildPage)],
  [
    ["/conditions/:slug/profile"],
    () => import("../rooms/conditions/ProfilePage").then((room) => room.ProfilePage),
  ],
  [["/conditions/:slug/drift"], () => import("../rooms/conditions/DriftPage").then((room) => room.DriftPage)],
  [
    ["/characterize/:id"],
    () => import("../rooms/characterize/CharacterizePage").then((room) => room.CharacterizePage),
  ],
  [["/colors"], () => import("../rooms/colors/ColorsRoom").then((room) => room.ColorsRoom)],
  [["/gamut"], () => import("../rooms/gamut/GamutRoom").then((room) => room.GamutRoom)],
  [["/house"], () => import("../rooms/house/HouseRoom").then((room) => room.HouseRoom)],
  [["/people"], () => import("../rooms/people/PeopleRoom").then((room) => room.PeopleRoom)],
  [["/policies"], () => import("../rooms/policies/PoliciesRoom").then((room) => room.PoliciesRoom)],
  [["/runs"], () => import("../rooms/runs/RunsRoom").then((room) => room.RunsRoom)],
];

const ENTERED = ROOMS.map(([paths, load]) => ({
  paths,
  Room: lazy(() => load().then((component) => ({ default: component }))),
}));

// The room that is asked for comes while the server says who is there.
for (const [paths, load] of ROOMS) {
  if (paths.some((path) => matchPath(path, location.pathname === "/" ? "/bench" : location.pathname))) {
    // What fails here is asked for again by whoever enters, and told there.
    void load().catch(() => undefined);
  }
}

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
    const later = setTimeout(() => void Promise.allSettled(ROOMS.map(([, load]) => load())), 3000);
    return () => clearTimeout(later);
  }, []);
  useEffect(() => {
    const end = async () => {
      // An answer to what was asked before somebody signed in again may come late: then nothing has ended.
      const now = await taken(api.GET("/api/session")).catch(() => undefined);
      if (!now?.user) return setEnded(true);
      await queries.refetchQueries({ predicate: (query) => query.state.status === "error" });
    };
    window.addEventListener(SIGNED_OUT, end);
    return () => window.removeEventListener(SIGNED_OUT, end);
  }, [queries]);

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
        <AddressRouter>
          <Routes>
            <Route element={<AppShell session={session} />}>
              {ENTERED.flatMap(({ paths, Room }) =>
                paths.map((path) => <Route key={path} path={path} element={room(<Room />)} />),
              )}
              <Route path="*" element={<Navigate to="/bench" replace />} />
            </Route>
          </Routes>
        </AddressRouter>
      </div>
      {ended && (
        <div className="signed-out" role="dialog" aria-modal="true" aria-label="Sign in again">
          <SignIn session={session} again={session.user ?? ""} onDone={goOn} />
        </div>
      )}
    </>
  );
}
