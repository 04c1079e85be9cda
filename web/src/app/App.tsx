import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { useSession } from "../api/queries";
import { ArtworkShelf } from "../rooms/bench/ArtworkShelf";
import { BenchRoom } from "../rooms/bench/BenchRoom";
import { ConditionPage } from "../rooms/conditions/ConditionPage";
import { ConditionsRoom } from "../rooms/conditions/ConditionsRoom";
import { GamutRoom } from "../rooms/gamut/GamutRoom";
import { HouseRoom } from "../rooms/house/HouseRoom";
import { RunsRoom } from "../rooms/runs/RunsRoom";
import { SignIn } from "../rooms/sign-in/SignIn";
import { House } from "./House";

export function App() {
  const session = useSession();
  if (session.error) return <p className="notice">{session.error.message}</p>;
  if (!session.data) return null;
  if (!session.data.user) return <SignIn session={session.data} />;
  return (
    <BrowserRouter>
      <Routes>
        <Route element={<House session={session.data} />}>
          <Route path="/bench" element={<ArtworkShelf />} />
          <Route path="/bench/:artworkId/:slug" element={<BenchRoom />} />
          <Route path="/conditions" element={<ConditionsRoom />} />
          <Route path="/house" element={<HouseRoom />} />
          <Route path="/conditions/:slug" element={<ConditionPage />} />
          <Route path="/gamut" element={<GamutRoom />} />
          <Route path="/runs" element={<RunsRoom />} />
          <Route path="*" element={<Navigate to="/bench" replace />} />
        </Route>
      </Routes>
    </BrowserRouter>
  );
}
