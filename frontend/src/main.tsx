import { createRoot } from "react-dom/client";

const root = document.getElementById("root");
if (root) createRoot(root).render(<h1>Gentle Ledger</h1>);
