// Check: everything wrong with the draft, in the order of what to do next, each with its fix; and three other looks at it.
import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import { lazy, Suspense } from "react";
import { Link as To, useSearchParams } from "react-router";
import { useDesk, type Desk } from "../assemble/desk";
import { FootBar } from "../assemble/FootBar";
import { Refusals } from "../assemble/Refusals";
import { Waiting } from "../parts/common";
import { FindingSheet } from "./FindingSheet";
import { FindingsList } from "./FindingsList";
import { FitTable } from "./FitTable";
import { LoadOrder } from "./LoadOrder";
import { MendSheet } from "./MendSheet";
import { MoveSheet } from "./MoveSheet";

const Picture = lazy(() => import("./Picture"));

const LOOKS: [string, string][] = [
  ["", "Findings"],
  ["fit", "Fit table"],
  ["order", "Load order and files"],
  ["picture", "Who needs whom"],
];

export function Check() {
  const work = useDesk();
  const { desk, onUndo, onRedo } = work;
  const [params] = useSearchParams();
  const look = params.get("look") ?? "";
  return (
    <>
      <Box component="nav" aria-label="Looks at the draft" sx={{ display: "flex", gap: 2.5, px: 3, pt: 1.25, flex: "none", overflowX: "auto" }}>
        {LOOKS.map(([key, name]) => (
          <Link key={key} component={To} to={key ? `?look=${key}` : "?"} aria-current={look === key ? "page" : undefined} color={look === key ? "textPrimary" : "primary"} sx={{ whiteSpace: "nowrap", pb: 0.5, fontWeight: look === key ? 700 : 400, borderBottom: 2, borderColor: look === key ? "secondary.light" : "transparent" }}>
            {name}
          </Link>
        ))}
      </Box>
      <Refusals work={work} />
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <Box role="region" aria-label="The draft checked" tabIndex={0} sx={{ flex: 1, minWidth: 0, minHeight: 0, overflow: "auto", display: { xs: params.get("sheet") ? "none" : "block", md: "block" } }}>
          <Look desk={desk} look={look} />
        </Box>
        <OpenSheet desk={desk} />
      </Box>
      <FootBar desk={desk} onUndo={onUndo} onRedo={onRedo} />
    </>
  );
}

function Look({ desk, look }: { desk: Desk; look: string }) {
  switch (look) {
    case "fit":
      return <FitTable desk={desk} />;
    case "order":
      return <LoadOrder desk={desk} />;
    case "picture":
      return (
        <Suspense fallback={<Waiting what="Getting the drawing tools" />}>
          <Picture desk={desk} />
        </Suspense>
      );
    default:
      return <FindingsList desk={desk} />;
  }
}

function OpenSheet({ desk }: { desk: Desk }) {
  const [params] = useSearchParams();
  const selected = params.get("sel") ?? "";
  switch (params.get("sheet")) {
    case "finding":
      return <FindingSheet key={selected} desk={desk} id={selected} />;
    case "mend":
      return <MendSheet desk={desk} />;
    case "move":
      return <MoveSheet key={selected} desk={desk} ground={selected} />;
    default:
      return null;
  }
}
