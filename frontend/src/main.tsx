import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { lazy, Suspense, useEffect, useState } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Link, NavLink, Route, Routes, useLocation } from "react-router";
import { askAgain } from "./api/client.ts";
import { callWindow, keyed, onNoKey, wasLetIn } from "./api/key.ts";
import { Told } from "./rounds/told/Told.tsx";
import { RoundsPage } from "./rounds/list/RoundsPage.tsx";
import "./styles.css";
import { ActionsProvider } from "./ui/actions.tsx";
import { openKept, watchClosing, windowName } from "./state/durable.ts";
import { useEnded } from "./state/useEnded.ts";
import { watchFocus } from "./ui/focus.ts";
import { watchKeys } from "./ui/held.ts";
import { FindAnything } from "./ui/FindAnything.tsx";
import { nonce } from "./ui/nonce.ts";
import { Guarded } from "./ui/Guarded.tsx";
import { NoticesProvider } from "./ui/notices.tsx";
import { NoKey } from "./way-in/NoKey.tsx";
import WayIn from "./way-in/WayIn.tsx";

setNonce(nonce);
watchKeys();
watchFocus();
watchClosing();

// What a page needs besides the list of rounds is loaded when it is opened.
const DeskPage = lazy(() => import("./rounds/desk/DeskPage.tsx"));
const ChangesPage = lazy(() => import("./rounds/changes/ChangesPage.tsx"));
const LookPage = lazy(() => import("./rounds/look/LookPage.tsx"));
const BesidePage = lazy(() => import("./rounds/look/BesidePage.tsx"));
const RehearsalPage = lazy(() => import("./rounds/rehearsal/RehearsalPage.tsx"));
const PracticePage = lazy(() => import("./help/PracticePage.tsx"));
const TextsPage = lazy(() => import("./rounds/look/TextsPage.tsx"));
const PrintPage = lazy(() => import("./rounds/look/PrintPage.tsx"));
const NoMoreTextsPage = lazy(() => import("./people/NoMoreTextsPage.tsx"));
const FunctionsPage = lazy(() => import("./help/FunctionsPage.tsx"));

const queries = new QueryClient({
  defaultOptions: { queries: { retry: askAgain, retryDelay: 500, refetchOnWindowFocus: true, staleTime: 2_000 } },
});

const place = ({ isActive }: { isActive: boolean }) =>
  `flex items-center border-b-2 pt-0.5 font-semibold ${isActive ? "border-ink" : "border-transparent text-ink-2 hover:text-ink"}`;

function Program() {
  const here = useLocation().pathname;
  const [shut, setShut] = useState(keyed && !wasLetIn());
  useEffect(() => onNoKey(() => setShut(true)), []);
  useEnded();
  if (here === "/in") return <WayIn />;
  if (shut) return <NoKey />;
  return (
    <div className="program">
      <Told />
      <header className="top">
        <Link to="/" className="title txt-20">
          Gentle Ledger
        </Link>
        <nav aria-label="Main" className="flex gap-5">
          <NavLink to="/" end className={place}>
            Rounds
          </NavLink>
          <NavLink to="/no-more-texts" className={place}>
            No more texts
          </NavLink>
          <NavLink to="/functions" className={place}>
            Formulas
          </NavLink>
        </nav>
        <div className="ml-auto">
          <FindAnything />
        </div>
      </header>
      <Guarded>
      <Suspense fallback={<main className="p-8 txt-15 text-ink-2" aria-busy="true">Opening…</main>}>
      <Routes>
        <Route path="/" element={<RoundsPage />} />
        <Route path="/rounds/:id" element={<DeskPage />} />
        <Route path="/rounds/:id/changes" element={<ChangesPage />} />
        <Route path="/rounds/:id/look" element={<LookPage />} />
        <Route path="/rounds/:id/look/texts" element={<TextsPage />} />
        <Route path="/rounds/:id/look/print" element={<PrintPage />} />
        <Route path="/rounds/:id/look/beside" element={<BesidePage />} />
        <Route path="/rounds/:id/rehearsal" element={<RehearsalPage />} />
        <Route path="/no-more-texts" element={<NoMoreTextsPage />} />
        <Route path="/good-practice" element={<PracticePage />} />
        <Route path="/functions" element={<FunctionsPage />} />
        <Route path="*" element={<p className="p-8 txt-15">There is nothing at this address. Press Rounds above.</p>} />
      </Routes>
      </Suspense>
      </Guarded>
    </div>
  );
}

const root = document.getElementById("root");
if (root)
  // What was typed before is there before anything is drawn over it.
  void openKept().then(() => {
    callWindow(windowName());
    createRoot(root).render(
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <NoticesProvider>
            <ActionsProvider>
              <Program />
            </ActionsProvider>
          </NoticesProvider>
        </BrowserRouter>
      </QueryClientProvider>,
    );
  });
