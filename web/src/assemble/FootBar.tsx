// The foot bar of a draft: what changed since the last release, undo and redo, who else is editing, publish.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as To } from "react-router";
import { DifferenceList } from "../parts/DifferenceList";
import { count } from "../parts/words";
import type { Desk } from "./desk";

export function FootBar({ desk, onUndo, onRedo }: { desk: Desk; onUndo: () => void; onRedo: () => void }) {
  const { draft, mayEdit, others } = desk;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const changes = draft.since?.count ?? 0;
  const words = draft.release === null ? "Not published yet" : changes === 0 ? `Nothing changed since ${draft.release}` : `${count(changes, "change")} since ${draft.release}`;
  return (
    <Box component="footer" aria-label="Draft" data-revision={draft.revision} sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, minHeight: 48, flex: "none", borderTop: 1, borderColor: "divider", flexWrap: "wrap" }}>
      {changes > 0 ? (
        <Button color="inherit" onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="dialog">{words}</Button>
      ) : (
        <Typography variant="body2" sx={{ px: 1 }}>{words}</Typography>
      )}
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "top", horizontal: "left" }} transformOrigin={{ vertical: "bottom", horizontal: "left" }}>
        <Box sx={{ p: 2, width: 420, maxHeight: 480, overflow: "auto" }}>{draft.since && <DifferenceList difference={draft.since} />}</Box>
      </Popover>
      {mayEdit && (
        <>
          <Tooltip title={draft.undo ? `Undo: ${draft.undo}` : ""}>
            <span><Button color="inherit" disabled={draft.undo === null} onClick={onUndo}>Undo</Button></span>
          </Tooltip>
          <Tooltip title={draft.redo ? `Redo: ${draft.redo}` : ""}>
            <span><Button color="inherit" disabled={draft.redo === null} onClick={onRedo}>Redo</Button></span>
          </Tooltip>
        </>
      )}
      <Button color="inherit" onClick={() => desk.open({ sheet: "history", sel: null })}>History</Button>
      <Typography variant="body2" color="textSecondary" noWrap sx={{ flex: 1, minWidth: 0 }}>
        {draft.last_by && `${draft.last_by} ${draft.last_words}`}
      </Typography>
      {others.length > 0 && <Typography variant="body2" role="status">Also here: {others.join(", ")}</Typography>}
      {mayEdit && <Button component={To} to={`/packs/${draft.slug}/publish`} variant={changes > 0 || draft.release === null ? "contained" : "outlined"}>Publish</Button>}
    </Box>
  );
}
