import { Route, Routes } from "react-router";
import { WholePage } from "./bench/WholePage";
import { BenchPage } from "./bench/BenchPage";
import { HelpPage } from "./help/HelpPage";
import { LinksPage } from "./clients/LinksPage";
import { NotHere } from "./ui/NotHere";
import { SessionGate } from "./session/SessionGate";
import { RoutinesPage } from "./runs/RoutinesPage";
import { RunPage } from "./runs/RunPage";
import { RunsPage } from "./runs/RunsPage";
import { WallPage } from "./wall/WallPage";

export function App() {
  return (
    <SessionGate>
      <Routes>
        <Route path="/" element={<WallPage />} />
        <Route path="/portraits/:id" element={<BenchPage />} />
        <Route path="/portraits/:id/whole" element={<WholePage />} />
        <Route path="/runs" element={<RunsPage />} />
        <Route path="/runs/:id" element={<RunPage />} />
        <Route path="/routines" element={<RoutinesPage />} />
        <Route path="/links" element={<LinksPage />} />
        <Route path="/help" element={<HelpPage />} />
        <Route path="*" element={<NotHere />} />
      </Routes>
    </SessionGate>
  );
}
