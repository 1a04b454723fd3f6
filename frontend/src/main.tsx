import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Link, Route, Routes } from "react-router";
import { askAgain } from "./api/client.ts";
import { DeskPage } from "./rounds/desk/DeskPage.tsx";
import { RoundsPage } from "./rounds/list/RoundsPage.tsx";
import "./styles.css";
import { ActionsProvider } from "./ui/actions.tsx";
import { FindAnything } from "./ui/FindAnything.tsx";
import { nonce } from "./ui/nonce.ts";
import { NoticesProvider } from "./ui/notices.tsx";

setNonce(nonce);

const queries = new QueryClient({
  defaultOptions: { queries: { retry: askAgain, retryDelay: 500, refetchOnWindowFocus: true, staleTime: 2_000 } },
});

function Program() {
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-12 shrink-0 items-center gap-7 border-b border-rule-strong px-5">
        <Link to="/" className="title text-[20px]">
          Gentle Ledger
        </Link>
        <nav aria-label="Main" className="h-full">
          <Link to="/" className="flex h-full items-center border-b-2 border-ink pt-0.5 font-semibold">
            Rounds
          </Link>
        </nav>
        <div className="ml-auto">
          <FindAnything />
        </div>
      </header>
      <Routes>
        <Route path="/" element={<RoundsPage />} />
        <Route path="/rounds/:id" element={<DeskPage />} />
        <Route path="*" element={<p className="p-8 text-[15px]">There is nothing at this address. Press Rounds above.</p>} />
      </Routes>
    </div>
  );
}

const root = document.getElementById("root");
if (root)
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
