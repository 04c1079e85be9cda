import { BrowserRouter, Navigate, Route, Routes } from "react-router";
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
          <Route path="/bench/:artworkId" element={<BenchRoom />} />
          <Route path="/bench/:artworkId/:slug" element={<BenchRoom />} />
          <Route path="/conditions" element={<ConditionsRoom />} />
          <Route path="/house" element={<HouseRoom />} />
          <Route path="/conditions/:slug" element={<ConditionPage />} />
          <Route path="/conditions/:slug/build" element={<BuildPage />} />
          <Route path="/conditions/:slug/profile" element={<ProfilePage />} />
          <Route path="/conditions/:slug/drift" element={<DriftPage />} />
          <Route path="/characterize/:id" element={<CharacterizePage />} />
          <Route path="/gamut" element={<GamutRoom />} />
          <Route path="/runs" element={<RunsRoom />} />
          <Route path="*" element={<Navigate to="/bench" replace />} />
        </Route>
      </Routes>
    </BrowserRouter>
  );
}
