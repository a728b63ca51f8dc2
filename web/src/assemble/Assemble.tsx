// Assemble: the waybill, the side sheet, and the foot bar.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import { useState } from "react";
import { useOutletContext, useSearchParams } from "react-router";
import { sentence } from "../api/client";
import { useEdit, useStepBack, type Edit } from "../api/queries";
import type { Draft } from "../api/schema";
import { useKeys } from "../parts/keys";
import { CatalogueSheet } from "./CatalogueSheet";
import { EntrySheet } from "./EntrySheet";
import { FootBar } from "./FootBar";
import { HistorySheet } from "./HistorySheet";
import { ModSheet } from "./ModSheet";
import { RemoveSheet } from "./RemoveSheet";
import { Waybill } from "./Waybill";

export interface Desk {
  draft: Draft;
  others: string[];
  /** Whether the reader may change the draft. */
  mayEdit: boolean;
  make: (edit: Edit) => void;
  open: (changes: Record<string, string | null>) => void;
  close: () => void;
  wide: boolean;
  onWide: () => void;
}

export function Assemble() {
  const { draft, others } = useOutletContext<{ draft: Draft; others: string[] }>();
  const [params, setParams] = useSearchParams();
  const [wide, setWide] = useState(false);
  const [refused, setRefused] = useState<{ about: string[]; why: string } | null>(null);
  const edit = useEdit(draft.slug);
  const undo = useStepBack(draft.slug, "undo");
  const redo = useStepBack(draft.slug, "redo");
  const mayEdit = draft.role !== "member";
  const open = (changes: Record<string, string | null>) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [key, value] of Object.entries(changes)) {
          if (value === null || value === "") next.delete(key);
          else next.set(key, value);
        }
        return next;
      },
      { replace: true },
    );
  const failed = (about: string[]) => ({
    onSuccess: () => setRefused(null),
    onError: (error: unknown) => setRefused({ about, why: sentence(error) }),
  });
  const make = (change: Edit) => edit.mutate(change, failed("mod" in change ? [change.mod] : []));
  const stepBack = (way: typeof undo) => way.mutate(draft.revision, failed([]));
  const desk: Desk = { draft, others, mayEdit, make, open, close: () => open({ sheet: null, sel: null }), wide, onWide: () => setWide(!wide) };
  useKeys({
    u: () => mayEdit && draft.undo !== null && stepBack(undo),
    U: () => mayEdit && draft.redo !== null && stepBack(redo),
    Escape: desk.close,
  });
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <Box sx={{ flex: 1, minWidth: 0, display: { xs: params.get("sheet") ? "none" : "flex", md: "flex" }, flexDirection: "column" }}>
          {refused && (
            <Alert severity="error" onClose={() => setRefused(null)} sx={{ borderRadius: 0 }}>
              {refused.why}
            </Alert>
          )}
          {draft.problems.length > 0 && (
            <Alert severity="error" sx={{ borderRadius: 0 }}>
              The draft does not fit together: {draft.problems.join(" ")}
            </Alert>
          )}
          {draft.missing.length > 0 && draft.problems.length === 0 && (
            <Alert severity="warning" sx={{ borderRadius: 0 }}>
              Needed and not in the draft: {draft.missing.join(", ")}. They will be in the release all the same.
            </Alert>
          )}
          <Waybill desk={desk} refused={refused?.about ?? []} />
        </Box>
        <OpenSheet desk={desk} sheet={params.get("sheet") ?? ""} selected={params.get("sel") ?? ""} />
      </Box>
      <FootBar desk={desk} onUndo={() => stepBack(undo)} onRedo={() => stepBack(redo)} />
    </>
  );
}

function OpenSheet({ desk, sheet, selected }: { desk: Desk; sheet: string; selected: string }) {
  const entry = desk.draft.entries.find((one) => one.mod === selected);
  switch (sheet) {
    case "catalogue":
      return <CatalogueSheet desk={desk} />;
    case "history":
      return <HistorySheet desk={desk} />;
    case "remove":
      return <RemoveSheet desk={desk} mods={selected.split(",")} />;
    case "mod":
      return entry ? <EntrySheet key={selected} desk={desk} entry={entry} /> : <ModSheet key={selected} desk={desk} mod={selected} />;
    default:
      return null;
  }
}
