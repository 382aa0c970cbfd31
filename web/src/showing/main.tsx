import "@fontsource-variable/figtree";
import "../styles/tokens.css";
import "../styles/showing.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ShowingPage } from "./ShowingPage";
import { tokenOf } from "./visit";

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <ShowingPage token={tokenOf(window.location.pathname)} />
  </StrictMode>,
);
